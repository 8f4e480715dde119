import type { LadderAnswer } from "@/core/api/releases";
import { digits } from "@/core/unit/format";
import { useTimes } from "../query/times";

/** A release that is announced and does not come is told of for so long, ms. */
const AWAITED = 7 * 24 * 3600_000;

/** Releases that are announced and have not been heard: they get a rung once they are. */
export function Coming({ ladder }: { ladder: LadderAnswer }) {
  const { moment } = useTimes();
  const heard = new Set(ladder.heard.map(({ release }) => release));
  const coming = ladder.announced.filter(({ release, at }) => !heard.has(release) && at > ladder.to - AWAITED);
  if (coming.length === 0) return null;
  return (
    <ul className="plate mb-2 border-l-[3px] border-double border-l-primary px-4 py-2">
      {coming.map(({ release, at, author, announcedBy, share, notes }) => (
        <li key={release} className="text-[13px]" title={notes || undefined}>
          <b className="num text-primary">{release}</b> is announced for {moment(at).slice(0, -3)} by{" "}
          {author || announcedBy}
          {share !== null && `, for ${digits(share * 100)} % of the calls`}; nothing was heard of it yet
        </li>
      ))}
    </ul>
  );
}
