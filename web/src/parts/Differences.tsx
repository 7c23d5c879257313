/** In what two plans differ: what weighs is marked. */
import type { Schemas } from "../api/client";
import { SCROLLS } from "./faces";

interface Props {
  name: string;
  other: string;
  differences: readonly Schemas["Difference"][];
}

export function Differences({ name, other, differences }: Props) {
  if (!differences.length) return <p role="status">The two plans are the same in everything.</p>;
  const weighty = differences.filter((d) => d.weighs).length;
  return (
    <div
      className="mt-2 overflow-x-auto"
      role="region"
      aria-label={`Differences of ${name} and ${other}`}
      tabIndex={SCROLLS}
    >
      <p className={weighty ? "text-notice" : "text-faded"}>
        {weighty
          ? `${weighty} of these keep the results from being put together as they are (◆).`
          : "None of these keeps the results from being put side by side."}
      </p>
      <table className="w-full min-w-120 text-left">
        <thead className="head">
          <tr>
            <th scope="col">What</th>
            <th scope="col">{name}</th>
            <th scope="col">{other}</th>
          </tr>
        </thead>
        <tbody>
          {differences.map((d) => (
            <tr key={d.what} className="border-t border-rule align-top">
              <th scope="row" className="py-1 pr-3 font-normal">
                {d.weighs && <span aria-label="weighs">◆ </span>}
                {d.what}
              </th>
              <td className="py-1 pr-3 wrap-anywhere">{d.first}</td>
              <td className="py-1 wrap-anywhere">{d.second}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
