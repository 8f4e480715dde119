import type { BrokenPlate } from "@/core/draft/brokenPlates";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";

/** Sheets, and plates of one, that are listed. */
const MAX_SHEETS = 12;
const MAX_PLATES = 8;

function Sheet({ plates }: { plates: readonly BrokenPlate[] }) {
  const carried = useCarried();
  const [{ sheet, name }] = plates;
  return (
    <li className="mt-1">
      <Link href={`/sheets/one${carried}${carried ? "&" : "?"}sheet=${sheet}`} className="slot">
        {name}
      </Link>
      <ul className="ml-4">
        {plates.slice(0, MAX_PLATES).map(({ id, plate, why }) => (
          <li key={id}>
            {plate}: {why.join("; ")}
          </li>
        ))}
        {plates.length > MAX_PLATES && <li className="text-muted">and {plates.length - MAX_PLATES} more</li>}
      </ul>
    </li>
  );
}

/** Plates of sheets that a draft leaves without what they show, with the reason. @param others sheets that were not tried */
export function BrokenPlates({ plates, others }: { plates: readonly BrokenPlate[]; others: number }) {
  const sheets = new Map<string, BrokenPlate[]>();
  for (const plate of plates) sheets.set(plate.sheet, [...(sheets.get(plate.sheet) ?? []), plate]);
  return (
    <section aria-label="Plates that break" className="mt-1 text-[13px]">
      {plates.length > 0 && (
        <h3 className="font-bold text-error">
          ✕ {plates.length} {plates.length === 1 ? "plate breaks" : "plates break"}
        </h3>
      )}
      <ul>
        {[...sheets].slice(0, MAX_SHEETS).map(([sheet, own]) => (
          <Sheet key={sheet} plates={own} />
        ))}
      </ul>
      {sheets.size > MAX_SHEETS && <p className="text-muted">and of {sheets.size - MAX_SHEETS} more sheets</p>}
      {others > 0 && (
        <p className="text-muted">
          {others} {others === 1 ? "sheet" : "sheets"} that you may not see {others === 1 ? "was" : "were"} not tried.
        </p>
      )}
    </section>
  );
}
