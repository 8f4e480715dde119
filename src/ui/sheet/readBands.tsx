import type { Sheet } from "@/core/sheet/sheet";
import { BandView } from "./bandView";

const NOTHING = () => {};

/** The bands of a sheet, to be read and nothing else. */
export function ReadBands({ sheet, scratch }: { sheet: Sheet; scratch: ((text: string) => string) | null }) {
  return sheet.bands.map((band, place) => (
    <BandView
      key={band.id}
      sheet={sheet}
      band={band}
      place={place}
      editing={null}
      dragged={null}
      open={null}
      onOpen={NOTHING}
      onAdd={NOTHING}
      scratch={scratch}
    />
  ));
}
