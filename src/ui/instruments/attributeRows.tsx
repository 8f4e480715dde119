import type { Draft } from "./draft";

/** The attributes of a contract in the making, a row each. */
export function AttributeRows({
  draft,
  onChange,
}: {
  draft: Draft;
  onChange: (attributes: Draft["attributes"]) => void;
}) {
  const { attributes } = draft;
  const change = (i: number, part: Partial<Draft["attributes"][number]>) =>
    onChange(attributes.map((one, at) => (at === i ? { ...one, ...part } : one)));
  return (
    <section className="plate mt-3 px-3 py-2">
      <h2 className="font-bold">Attributes</h2>
      {attributes.length > 0 && (
        <table className="mt-1 w-full border-collapse text-[13px]">
          <thead className="text-left">
            <tr>
              {["name", "must be there", "expected values, with commas", "or a pattern", "how many values", ""].map(
                (head) => (
                  <th key={head} scope="col" className="pr-3 font-normal text-muted">
                    {head || <span className="sr-only">take out</span>}
                  </th>
                ),
              )}
            </tr>
          </thead>
          <tbody>
            {attributes.map((one, i) => (
              <tr key={i}>
                <td className="py-0.5 pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: name`}
                    className="input input-sm num w-44"
                    value={one.name}
                    onChange={(event) => change(i, { name: event.target.value })}
                  />
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: must be there`}
                    type="checkbox"
                    className="checkbox checkbox-xs"
                    checked={one.required}
                    onChange={(event) => change(i, { required: event.target.checked })}
                  />
                </td>
                <td className="w-full pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: expected values`}
                    className="input input-sm num w-full"
                    value={one.values}
                    onChange={(event) => change(i, { values: event.target.value })}
                  />
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: pattern`}
                    className="input input-sm num w-32"
                    value={one.pattern}
                    onChange={(event) => change(i, { pattern: event.target.value })}
                  />
                </td>
                <td className="pr-3">
                  <input
                    aria-label={`attribute ${i + 1}: how many values`}
                    type="number"
                    min={1}
                    className="input input-sm num w-24"
                    value={one.expected}
                    onChange={(event) => change(i, { expected: event.target.value })}
                  />
                </td>
                <td>
                  <button
                    type="button"
                    className="slot"
                    aria-label={`take out attribute ${i + 1}`}
                    onClick={() => onChange(attributes.filter((_, at) => at !== i))}
                  >
                    ✕
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <button
        type="button"
        className="slot mt-1"
        onClick={() => onChange([...attributes, { name: "", required: true, values: "", pattern: "", expected: "" }])}
      >
        add an attribute
      </button>
    </section>
  );
}
