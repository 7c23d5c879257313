/** The grid of treatments: every combination as a cell to make or leave out, with its letter, its number of pieces and the control. */
import type { PlanProps } from "./common";
import { gridCells, levelName, same } from "./draft";
import { useUnits } from "../../parts/units";
import { SCROLLS } from "../../parts/facts";

export function Grid({ draft, view, reference, locked }: PlanProps) {
  const { document: d, change } = draft;
  const units = useUnits();
  const last = d.factors.at(-1);
  const cells = gridCells(d);
  if (!last || d.factors.some((f) => !f.levels.length) || cells.length > 400) return null;
  const rows = [...new Map(cells.map((c) => [c.slice(0, -1).join(), c.slice(0, -1)])).values()];
  const name = (factor: number, level: number) => {
    const f = d.factors[factor]!;
    return levelName(f.levels[level]!, reference.fields.find((x) => x.key === f.key), units);
  };
  const made = (cell: readonly number[]) => !d.dropped.some((c) => same(c, cell));
  const toggle = (cell: number[], on: boolean) => {
    const dropped = on ? d.dropped.filter((c) => !same(c, cell)) : [...d.dropped, cell];
    change({ dropped, control: !on && d.control && same(d.control, cell) ? null : d.control });
  };
  const own = (cell: readonly number[]) => d.extra_replicates.find(([c]) => same(c as number[], cell))?.[1] as number | undefined;
  const setOwn = (cell: number[], text: string) => {
    const n = Math.round(Number(text));
    const rest = d.extra_replicates.filter(([c]) => !same(c as number[], cell));
    change({ extra_replicates: n > 0 && n !== d.replicates ? [...rest, [cell, Math.min(500, n)]] : rest } as Partial<typeof d>);
  };
  return (
    <div className="my-2 overflow-x-auto leading-6" tabIndex={SCROLLS} role="region" aria-label="Grid of treatments">
      <table className="border-collapse text-sm">
        <thead>
          <tr>
            <td />
            {last.levels.map((_, j) => (
              <th key={j} scope="col" className="head px-2 pb-1 text-left font-semibold">
                {name(d.factors.length - 1, j)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={row.join()}>
              <th scope="row" className="head pr-3 text-left font-semibold">
                {row.map((l, i) => name(i, l)).join(" · ")}
              </th>
              {last.levels.map((_, j) => {
                const cell = [...row, j];
                const on = made(cell);
                const words = cell.map((l, i) => name(i, l)).join(", ");
                const treatment = view.outlook.treatments.find((t) => t.cell && same(t.cell, cell));
                const control = d.control !== null && same(d.control ?? [], cell);
                return (
                  <td key={j} className={`border border-rule px-2 py-1 align-top ${on ? "bg-sheet" : ""} ${control ? "outline-2 -outline-offset-2 outline-spruce" : ""}`}>
                    <span className="flex items-center gap-2">
                      <input type="checkbox" className="size-6" aria-label={`Make ${words}`} checked={on} disabled={locked} onChange={(e) => toggle(cell, e.target.checked)} />
                      {on && <span className="font-mono font-semibold">{treatment?.letter}</span>}
                      {on && (
                        <input aria-label={`Pieces of ${words}`} type="number" min={1} max={500} className="written w-12 text-center" disabled={locked} value={own(cell) ?? d.replicates} onChange={(e) => setOwn(cell, e.target.value)} />
                      )}
                    </span>
                    {on ? (
                      <label className="flex items-center gap-1 text-faded">
                        <input type="radio" name="control" className="size-6" aria-label={`Control: ${words}`} checked={control} disabled={locked} onChange={() => change({ control: cell })} />
                        control
                      </label>
                    ) : (
                      <span className="text-faded">not made</span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
