import { type ContractBody, forecastSeries } from "@/core/contract/contract";
import { remarksOn } from "@/core/contract/naming";
import { count } from "../frame/amounts";

/** Above this many series an instrument is worth a second thought. */
const MANY = 10_000;

/** How many series a contract will make, and what the naming rules say of it. */
export function ContractChecks({ body }: { body: ContractBody }) {
  const { series, factors, open } = forecastSeries(body);
  const remarks = remarksOn(body);
  return (
    <section aria-label="What the rules say" className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">
        It will make about <span className={`num ${series > MANY ? "text-error" : ""}`}>{count(series)}</span>{" "}
        {series === 1 ? "series" : "series"}
        {series > MANY && <span className="text-error"> ✕ that is a lot: which attribute could be left out?</span>}
      </h2>
      <p className="text-muted">
        {body.instances} {body.instances === 1 ? "instance" : "instances"}
        {factors.map(({ name, times }) => (
          <span key={name}>
            {" "}
            × <span className="num">{name}</span> {times}
          </span>
        ))}
        {open.length > 0 && (
          <span className="text-warning"> ◆ {open.join(", ")} counted as one value: say how many are expected</span>
        )}
      </p>
      <ul className="mt-1">
        {remarks.map(({ weight, about, text }) => (
          <li key={text} className={weight === "wrong" ? "text-error" : "text-warning"}>
            {weight === "wrong" ? "✕" : "◆"} {about}: <span className="text-base-content">{text}</span>
          </li>
        ))}
        {remarks.length === 0 && <li className="text-success">✓ name and unit are as the naming rules want them</li>}
      </ul>
    </section>
  );
}
