/** What the plan judges besides the load, compared. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";

const figure = (v: number | null) => (v === null ? "" : Number(v.toPrecision(4)).toString());
const OF_NUMBERS = ["mean", "SD", "95 % interval"];

export const OwnResults = ({ view }: { view: Schemas["CompareView"] }) => (
  <>
    {view.own.map((p) => (
      <section key={p.name} aria-label={p.name}>
        <h3 className="head mb-1">
          {p.name}
          {p.unit && `, ${p.unit}`}
        </h3>
        {p.sentences.map((text) => (
          <p key={text}>{text}</p>
        ))}
        <div
          className="sheet mt-1 overflow-x-auto"
          tabIndex={SCROLLS}
          role="region"
          aria-label={`${p.name} in figures`}
        >
          <table className="w-full min-w-lg text-right">
            <thead className="border-b border-strong-rule">
              <tr>
                {["Treatment", "n", ...(p.grades.length ? p.grades : OF_NUMBERS)].map((h, i) => (
                  <th key={h} scope="col" className={`head px-3 py-2 ${i === 0 ? "text-left" : ""}`}>
                    {h}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {p.rows.map((r) => (
                <Row key={r.letter} row={r} grades={p.grades} />
              ))}
            </tbody>
          </table>
        </div>
      </section>
    ))}
  </>
);

function Row({ row, grades }: { row: Schemas["OwnRowResult"]; grades: readonly string[] }) {
  const cells = grades.length
    ? grades.map((g) => String(row.grades[g] ?? ""))
    : [
        figure(row.mean),
        figure(row.sd),
        row.ci_low === null ? "" : `${figure(row.ci_low)} to ${figure(row.ci_high)}`,
      ];
  return (
    <tr className="border-b border-rule last:border-b-0">
      <th scope="row" className="px-3 py-1 text-left font-normal wrap-anywhere">
        <span className="mr-2 font-mono font-semibold">{row.letter}</span>
        {row.label}
      </th>
      {[String(row.n), ...cells].map((text, i) => (
        <td key={i} className="px-3 whitespace-nowrap">
          {text}
        </td>
      ))}
    </tr>
  );
}
