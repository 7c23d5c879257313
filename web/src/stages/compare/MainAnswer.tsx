/** The answers to what was asked: the main one with its table, each further question as a line that opens. */
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { Worded } from "../../parts/Word";
import { Copy } from "./Copy";
import { glued, pct, STANDINGS } from "./standings";

type View = Schemas["CompareView"];
type Answered = Schemas["AnswerView"];

/** Rows of a table that are shown at once; the rest opens. */
const ROWS = 8;

export function MainAnswer({ view }: { view: View }) {
  const [main, ...others] = view.answers;
  if (!main) return null;
  return (
    <>
      {view.question && view.question !== main.question && <p className="text-faded">{view.question}</p>}
      {main.question && <p className="text-faded">{main.question}</p>}
      <h2 className="max-w-4xl text-xl leading-snug font-bold" data-testid="headline">
        {main.text ? <Worded text={glued(main.text)} /> : main.lacks.join(" ")}
      </h2>
      {main.late && <p className="text-sm text-notice">Asked after results were seen.</p>}
      <p className="max-w-4xl text-sm text-faded" data-testid="scope">
        {view.scope} {main.text && <Copy text={`${main.text} ${view.scope}`} what={main.text} />}
      </p>
      {others.length > 0 && (
        <ul className="max-w-4xl space-y-1" aria-label="Further questions">
          {others.map((a, i) => (
            <li key={a.id}>
              <details>
                <summary className="cursor-pointer">
                  {a.question && <span className="text-faded">{a.question} </span>}
                  {a.late && <span className="text-sm text-notice">(asked after results were seen) </span>}
                  {glued(a.text) || a.lacks.join(" ")}
                </summary>
                <AnswerTable answer={a} number={i + 2} />
              </details>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

export function AnswerTable({ answer, number }: { answer: Answered; number: number | string }) {
  const rows = answer.table;
  if (rows.length < 2) return null;
  const shares = rows.some((r) => r.share !== null);
  const inner = rows.some((r) => r.within);
  const line = (r: Answered["table"][number]) => (
    <tr key={`${r.name} ${r.within}`} className="border-b border-rule last:border-b-0">
      <th scope="row" className="min-w-20 px-2 py-0.5 text-left font-normal wrap-break-word">
        {r.name}
      </th>
      {inner && <td className="px-2">{r.within}</td>}
      <td className="px-2">{STANDINGS[r.standing] ?? r.standing}</td>
      <td className="px-2 text-right">{glued(r.text)}</td>
      {shares && <td className="px-2 text-right">{share(r)}</td>}
      <td className="px-2 text-right">
        {r.n}
        {r.unbroken > 0 && <span className="text-faded"> of {r.n + r.fallen + r.unbroken}</span>}
        {r.fallen > 0 && <span className="block text-faded">{r.fallen} fell apart</span>}
      </td>
    </tr>
  );
  const head = (
    <thead className="border-b border-strong-rule">
      <tr>
        <th scope="col" className="head px-2 py-1 text-left">
          Level
        </th>
        {inner && <th scope="col" className="head px-2 py-1 text-left" />}
        <th scope="col" className="head px-2 py-1 text-left">
          Standing
        </th>
        <th scope="col" className="head px-2 py-1 text-right">
          Figure
        </th>
        {shares && (
          <th scope="col" className="head px-2 py-1 text-right">
            {answer.against ? `of ${answer.against}` : "share"}
          </th>
        )}
        <th scope="col" className="head px-2 py-1 text-right">
          Pieces
        </th>
      </tr>
    </thead>
  );
  return (
    <div
      className="sheet my-1 overflow-x-auto"
      role="region"
      aria-label={`Answer ${number} in figures`}
      tabIndex={SCROLLS}
    >
      <table className="w-full text-sm">
        {head}
        <tbody>{rows.slice(0, ROWS).map(line)}</tbody>
      </table>
      {rows.length > ROWS && (
        <details>
          <summary className="cursor-pointer px-3 py-1 text-sm">All {rows.length} rows</summary>
          <table className="w-full text-sm">
            <tbody>{rows.slice(ROWS).map(line)}</tbody>
          </table>
        </details>
      )}
    </div>
  );
}

/** A share with its interval, in whole percent, as the server has rounded the sentence. */
function share(r: Answered["table"][number]) {
  if (r.share === null) return "";
  return (
    <>
      {`${pct(r.share)}\u00a0%`}
      {r.low !== null && r.high !== null && (
        <>
          {" "}
          <span className="whitespace-nowrap">
            ({pct(r.low)}–{pct(r.high)})
          </span>
        </>
      )}
    </>
  );
}
