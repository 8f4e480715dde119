import type { LadderAnswer } from "@/core/api/releases";
import { digits } from "@/core/unit/format";
import { shortName } from "../frame/names";

/** Characters of a commit that there is room for. */
const MAX_COMMIT = 18;

type AnnouncedRelease = LadderAnswer["announced"][number];

/** What was said of a release when it was announced. */
export function Announced({ announced, share }: { announced: AnnouncedRelease; share: number | null }) {
  const { commit, author, notes, link, share: meant } = announced;
  const said = [commit && `commit ${shortName(commit, MAX_COMMIT)}`, author && `by ${author}`]
    .filter(Boolean)
    .join(" ");
  return (
    <div className="max-w-36 text-[11.5px] text-muted" title={notes || undefined}>
      {meant !== null && (
        <p>
          meant {digits(meant * 100)} %{share !== null && `, is ${digits(share * 100)} %`}
        </p>
      )}
      {(said || link) && (
        <p className="truncate">
          {link ? (
            <a
              href={link}
              rel="noreferrer noopener"
              target="_blank"
              className="underline decoration-dotted underline-offset-2"
            >
              {said || "more of it"}
            </a>
          ) : (
            said
          )}
        </p>
      )}
    </div>
  );
}
