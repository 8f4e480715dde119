import type { RecordDryRun, TextOfRecord } from "@/core/draft/recordDryRun";
import { size } from "../frame/amounts";
import { Row, Table } from "../frame/table";

/** What a pipeline does to spans or log records of the last minutes. */

function pairs(attributes: Readonly<Record<string, string>>): string {
  return Object.entries(attributes)
    .map(([key, value]) => `${key}=${value}`)
    .join(" ");
}

function Told({ record }: { record: TextOfRecord }) {
  return (
    <>
      <div className="font-semibold">{record.title}</div>
      <div className="text-muted">{pairs(record.attributes)}</div>
    </>
  );
}

function isChanged({ before, after }: RecordDryRun["examples"][number]): boolean {
  return JSON.stringify(before) !== JSON.stringify(after);
}

export function RecordPanel({ title, many, dryRun }: { title: string; many: string; dryRun: RecordDryRun }) {
  const { arrivals, stored, examples } = dryRun;
  if (arrivals.records === 0) return null;
  const part = (100 * (stored.records - arrivals.records)) / arrivals.records;
  const shown = [...examples].sort((a, b) => Number(isChanged(b)) - Number(isChanged(a))).slice(0, 5);
  return (
    <section aria-label={title} className="plate mb-3 px-3 py-2">
      <h2 className="font-bold">
        <span className="num">{arrivals.records.toLocaleString("en")}</span> {many}{" "}
        {stored.records === arrivals.records ? (
          "are stored as many"
        ) : (
          <>
            become <span className="num">{stored.records.toLocaleString("en")}</span>{" "}
            <span className="num text-primary">
              {part > 0 ? "+" : "−"}
              {Math.abs(part).toFixed(1)} %
            </span>
          </>
        )}
        <span className="font-normal text-muted">
          {" "}
          of those tried, about {size(arrivals.bytes)}
          {stored.bytes !== arrivals.bytes && ` before and ${size(stored.bytes)} after`}
        </span>
      </h2>
      <Table heads={["comes in as", "is stored as"]}>
        {shown.map((one, i) => (
          <Row key={i}>
            <td className="num w-1/2 py-1 pr-4 text-[12px] break-all">
              <Told record={one.before} />
            </td>
            <td className="num text-[12px] break-all">
              {one.after ? (
                isChanged(one) ? (
                  <Told record={one.after} />
                ) : (
                  <span className="text-muted">the same</span>
                )
              ) : one.waits ? (
                <span className="text-muted">waits for its trace</span>
              ) : (
                <span className="text-warning">nothing: dropped</span>
              )}
            </td>
          </Row>
        ))}
      </Table>
    </section>
  );
}
