import type { LadderAnswer } from "@/core/api/releases";
import { newestFirst } from "@/core/release/order";
import { useTimes } from "../query/times";

/** What can be said of releases without a histogram of calls: when they were heard, and what was said of them. */
export function HeardReleases({ ladder }: { ladder: LadderAnswer }) {
  const { moment } = useTimes();
  const heard = newestFirst(ladder.heard.filter(({ release }) => release !== ""));
  if (heard.length === 0) return null;
  return (
    <table className="mt-3 w-full max-w-2xl text-left">
      <caption className="sr-only">Releases of {ladder.service}, newest first</caption>
      <thead>
        <tr className="border-b border-base-300 text-[12px]">
          <th scope="col" className="py-1 pr-4">
            release
          </th>
          <th scope="col" className="py-1 pr-4">
            first heard
          </th>
          <th scope="col" className="py-1 pr-4">
            last heard
          </th>
          <th scope="col" className="py-1">
            by
          </th>
        </tr>
      </thead>
      <tbody>
        {heard.map(({ release, firstAt, lastAt }) => (
          <tr key={release} className="border-b border-base-300 last:border-b-0">
            <th scope="row" className="num py-1 pr-4 font-semibold">
              {release}
            </th>
            <td className="num py-1 pr-4">{moment(firstAt).slice(0, -3)}</td>
            <td className="num py-1 pr-4">{moment(lastAt).slice(0, -3)}</td>
            <td className="py-1 text-muted">{ladder.announced.find((one) => one.release === release)?.author}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
