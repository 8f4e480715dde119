"use client";

import { useState } from "react";
import type { AttributeShare, InstrumentAnswer } from "@/core/api/instruments";
import { attributeText } from "@/core/reading/language/quote";
import { digits } from "@/core/unit/format";
import { count } from "../frame/amounts";
import Link from "../frame/link";
import { useCarried } from "../frame/navigation";
import { Row, Table } from "../frame/table";
import { usualReading } from "../sentence/usual";

const SHORT = 8;

function part(series: number, of: number): string {
  return of === 0 ? "" : `${digits((100 * series) / of)} %`;
}

function Values({ share, series }: { share: AttributeShare; series: number }) {
  const [all, setAll] = useState(false);
  const shown = all ? share.values : share.values.slice(0, SHORT);
  return (
    <span className="num text-[12.5px]">
      {shown.map(({ value, series: own }, i) => (
        <span key={value}>
          {i > 0 && ", "}
          <span className="break-all">{value === "" ? "“”" : value}</span>{" "}
          <span className="whitespace-nowrap text-muted">{part(own, series)}</span>
        </span>
      ))}
      {share.missing > 0 && <span className="text-muted">, missing in {part(share.missing, series)}</span>}
      {share.values.length > SHORT && (
        <button type="button" className="slot ml-1.5 font-sans" onClick={() => setAll(!all)}>
          {all ? "fewer" : `and ${count(share.distinct - SHORT)} more`}
        </button>
      )}
    </span>
  );
}

/** Each attribute: its values with their share of the series, and what it costs. */
export function Attributes({ data }: { data: InstrumentAnswer }) {
  const carried = useCarried();
  const series = data.seriesNow > 0 ? data.seriesNow : data.series;
  const [first] = data.variants;
  const reading = (attribute: string) => {
    if (!first) return "";
    return usualReading({ ...first, name: data.name }, { by: `${attributeText(attribute)} top 6` });
  };
  if (data.attributes.length === 0)
    return <p className="plate p-3 text-muted">No attributes: nothing of it has arrived yet.</p>;
  return (
    <section aria-label="Attributes" className="plate px-3 py-2">
      <Table
        heads={[
          "attribute",
          { name: "values", right: true },
          { name: "series without it", right: true },
          { name: "that saves", right: true },
          { name: "its values and their share of the series", wide: true },
        ]}
      >
        {data.attributes.map((share) => (
          <Row key={`${share.place} ${share.name}`}>
            <th scope="row" className="py-1 pr-4 text-left whitespace-nowrap">
              <Link
                className="num font-semibold hover:text-primary"
                href={`/scratch${carried ? `${carried}&` : "?"}reading=${encodeURIComponent(reading(share.name))}`}
              >
                {share.name}
              </Link>
              {share.place === "resource" && (
                <span className="block text-[11.5px] font-normal text-muted">of who sends</span>
              )}
            </th>
            <td className="num pr-4 text-right">{count(share.distinct)}</td>
            <td className="num pr-4 text-right">{count(share.without)}</td>
            <td
              className={`num pr-4 text-right ${series - share.without > series / 2 ? "font-semibold text-warning" : ""}`}
            >
              {series > share.without ? part(series - share.without, series) : "nothing"}
            </td>
            <td className="py-1">
              <Values share={share} series={series} />
            </td>
          </Row>
        ))}
      </Table>
    </section>
  );
}
