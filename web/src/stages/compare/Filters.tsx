import type { Schemas } from "../../api/client";
import { Explained } from "../../parts/Explained";
import { counted } from "../../parts/units";

type View = Schemas["CompareView"];

interface FilterProps {
  view: View;
  without: string[];
  onChange: (without: string[]) => void;
}

/** What is off with some pieces, by kind: the comparison with and without them. */
export function FlagFilter({ view, without, onChange }: FilterProps) {
  if (!view.flags.length) return null;
  return (
    <fieldset
      className={`flex flex-wrap items-center gap-x-5 gap-y-1 border-l-4 border-notice bg-notice-pale
        px-3 py-1.5 no-print`}
    >
      <legend className="sr-only">Pieces to mind</legend>
      <span className="text-notice">Counted although</span>
      {view.flags.map((f) => (
        <label key={f.kind} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="size-5"
            checked={!without.includes(f.kind)}
            onChange={(e) =>
              onChange(e.target.checked ? without.filter((k) => k !== f.kind) : [...without, f.kind])
            }
          />
          {f.text}
          <Explained label={`which: ${f.text}`} why={f.codes.join(", ")}>
            {f.codes.length}
          </Explained>
        </label>
      ))}
      {without.length > 0 && (
        <strong role="status" className="text-notice">
          Shown without the pieces that are not ticked.
        </strong>
      )}
    </fieldset>
  );
}

interface BoardProps {
  view: View;
  without: string[];
  onChange: (without: string[]) => void;
}

/** The boards of the pieces with what is known of their wood: the comparison with and without them. */
export function BoardFilter({ view, without, onChange }: BoardProps) {
  if (view.boards.length < 2) return null;
  return (
    <details className="no-print" open={without.length > 0}>
      <summary className="w-fit cursor-pointer text-faded">
        {counted(view.boards.length, "board")}
        {without.length > 0 && (
          <strong role="status" className="text-notice">
            , shown without {counted(without.length, "of them", "of them")}
          </strong>
        )}
      </summary>
      <fieldset className="mt-1 flex flex-wrap gap-x-5 gap-y-1">
        <legend className="sr-only">Boards to count</legend>
        {view.boards.map((b) => (
          <label key={b.label} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="size-5"
              checked={!without.includes(b.label)}
              onChange={(e) =>
                onChange(e.target.checked ? without.filter((k) => k !== b.label) : [...without, b.label])
              }
            />
            {b.label}
            <span className="text-sm text-faded">
              {[
                b.density_kg_m3 !== null && `${b.density_kg_m3} kg/m³`,
                b.moisture_pct !== null && `${b.moisture_pct} %`,
              ]
                .filter(Boolean)
                .join(", ")}
            </span>
            <Explained label={`pieces of ${b.label}`} why={b.codes.join(", ")}>
              {b.codes.length}
            </Explained>
          </label>
        ))}
      </fieldset>
    </details>
  );
}
