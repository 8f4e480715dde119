import { useState } from "react";
import type { Price } from "@/core/api/pipeline";
import { ProblemNote } from "../frame/problemNote";
import { useMay } from "../query/me";
import { usePrice } from "../query/pipeline";
import { Blank } from "../sentence/blank";

/** What series and bytes cost the team, at its own prices. */

/** Series, and bytes a month. */
export interface Costly {
  series: number;
  bytes: number;
}

export function costOf({ series, bytes }: Costly, price: Price): number {
  return series * price.series + (bytes / 1e9) * price.gigabyte;
}

export function money(amount: number, { currency }: Price): string {
  const text = amount.toLocaleString("en", { minimumFractionDigits: 2, maximumFractionDigits: 2 });
  return currency === "" ? text : `${text} ${currency}`;
}

/** A setting that is written in place and kept for all once it is left, or with Enter. */
function KeptBlank({
  name,
  value,
  placeholder,
  read,
  onKeep,
}: {
  name: string;
  value: string;
  placeholder?: string;
  /** Makes sense of what is written; null where there is none. */
  read: (text: string) => Partial<Price> | null;
  onKeep: (part: Partial<Price>) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed === null) return;
    const part = read(typed.trim());
    if (part && typed.trim() !== value) onKeep(part);
    setTyped(null);
  };
  return (
    <Blank
      name={name}
      value={typed ?? value}
      placeholder={placeholder}
      onChange={setTyped}
      onDone={keep}
      onGiveUp={() => setTyped(null)}
    />
  );
}

function numberOf(text: string): number | null {
  const value = Number(text.replace(",", "."));
  return text !== "" && Number.isFinite(value) && value >= 0 && value <= 1e6 ? value : null;
}

export function CostLine({ live, draft, drafting }: { live: Costly; draft: Costly; drafting: boolean }) {
  const { price, change } = usePrice();
  const mayEdit = useMay("edit");
  const [problem, setProblem] = useState<unknown>(null);
  const keep = (part: Partial<Price>) => {
    change(part).then(() => setProblem(null), setProblem);
  };
  const amount = (field: "series" | "gigabyte") => (text: string) => {
    const value = numberOf(text);
    return value === null ? null : { [field]: value };
  };
  return (
    <>
      <p className="mt-1">
        At{" "}
        {mayEdit ? (
          <>
            <KeptBlank
              name="price of a series a month"
              value={String(price.series)}
              read={amount("series")}
              onKeep={keep}
            />{" "}
            a series and{" "}
            <KeptBlank
              name="price of a gigabyte"
              value={String(price.gigabyte)}
              read={amount("gigabyte")}
              onKeep={keep}
            />{" "}
            a GB{" "}
            <KeptBlank
              name="currency"
              value={price.currency}
              placeholder="currency"
              read={(currency) => (currency.length <= 8 ? { currency } : null)}
              onKeep={keep}
            />
          </>
        ) : (
          `${price.series} a series and ${price.gigabyte} a GB ${price.currency}`
        )}
        : <b className="num">{money(costOf(live, price), price)}</b> a month as it runs
        {drafting && (
          <>
            , <b className="num">{money(costOf(draft, price), price)}</b> as drafted
          </>
        )}
        .
      </p>
      {problem !== null && <ProblemNote error={problem} />}
    </>
  );
}
