/** Every piece by its treatment, each to be opened in full; and what doubtful ones do to the answer. */
import type { Schemas } from "../../api/client";
import { doubtOf } from "../../parts/figures";
import { MarkIcon } from "../../parts/marks";
import { counted, useUnits } from "../../parts/units";

type View = Schemas["CompareView"];
const CODE = "font-mono underline decoration-dotted underline-offset-4";

interface Props {
  view: View;
  onOpen: (code: string) => void;
}

export function Pieces({ view, onOpen }: Props) {
  const units = useUnits();
  const figure = (m: Schemas["Mark"]) => {
    const low = units.number(m.low, view.dimension, doubtOf(view));
    if (m.high === null) return `≥ ${low}`;
    return m.high === m.low ? low : `${low} to ${units.number(m.high, view.dimension, doubtOf(view))}`;
  };
  if (view.loadless) return null;
  return (
    <details>
      <summary className="cursor-pointer text-lg font-bold">
        Piece by piece, in {units.symbol(view.dimension)}
      </summary>
      {view.treatments.map((t) => (
        <div key={t.letter} className="mt-2">
          <p>
            <span className="mr-2 font-mono font-semibold">{t.letter}</span>
            {t.label}
          </p>
          <ul className="flex flex-wrap gap-x-4">
            {t.marks.map((m) => (
              <li key={m.code}>
                <button
                  type="button"
                  className={`flex items-center gap-1 py-1 ${m.hollow ? "text-faded" : ""}`}
                  onClick={() => onOpen(m.code)}
                >
                  <MarkIcon mode={m.hollow ? "" : m.failure_mode} />
                  <span className={CODE}>{m.code}</span>
                  {figure(m)}
                  <Mind of={m} />
                </button>
              </li>
            ))}
          </ul>
        </div>
      ))}
    </details>
  );
}

const Mind = ({ of }: { of: Schemas["Mark"] }) =>
  of.flags.length > 0 ? <strong className="text-notice"> !</strong> : null;

/** The answers with and without the doubtful pieces, beside each other. */
export function WithAndWithout({ view, onOpen }: Props) {
  const b = view.beside;
  if (!b) return null;
  return (
    <section aria-label="With and without doubtful pieces" className="border-l-4 border-notice px-3 py-1">
      <h3 className="head">
        {counted(b.codes.length, "doubtful piece")}:{" "}
        {b.codes.map((code) => (
          <button key={code} type="button" className={`mr-2 ${CODE}`} onClick={() => onOpen(code)}>
            {code}
          </button>
        ))}
      </h3>
      <dl className="grid gap-x-4 sm:grid-cols-[max-content_1fr]">
        <dt className="text-faded">with</dt>
        <dd>{b.with_them}</dd>
        <dt className="text-faded">without</dt>
        <dd>{b.without_them}</dd>
      </dl>
      <p className="text-sm">{b.changed.join(" ")}</p>
    </section>
  );
}
