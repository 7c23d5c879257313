/** A fraction of a large grid: half, a third or a quarter, so that every factor can still be told apart. */
import { useState } from "react";
import { api, Problem, take } from "../../api/client";
import { ProblemNote } from "../../parts/controls";
import { counted } from "../../parts/units";
import type { PlanProps } from "./common";
import { covers, gridCells, type Cell } from "./draft";

/** Cells from which on a fraction of them can say anything. */
const LEAST = 8;
const PARTS = [
  ["half", "half of them"],
  ["third", "a third of them"],
  ["quarter", "a quarter of them"],
] as const;

export function Fraction({ draft, view, locked }: PlanProps) {
  const { document: d, change } = draft;
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Problem | null>(null);
  const cells = gridCells(d);
  if (cells.length < LEAST || d.factors.some((f) => f.levels.length < 2)) return null;
  const made = cells.filter((c) => !d.dropped.some((p) => covers(p, c))).length;
  if (locked)
    return made < cells.length ? <p>{`${made} of ${cells.length} combinations are made.`}</p> : null;

  const choose = async (part: string) => {
    setProblem(null);
    if (part === "all") return change({ dropped: [] });
    setBusy(true);
    try {
      await draft.settled();
      const found = await take<"Fraction">(
        api.GET("/api/batches/{batch_id}/fraction", {
          params: { path: { batch_id: view.batch_id }, query: { part } },
        }),
      );
      const dropped = found.dropped as Cell[];
      change(({ control }) => ({
        dropped,
        // A control that is not made is chosen again: the first cell always is.
        control: dropped.some((c) => covers(c, control)) ? (cells[0] ?? {}) : control,
      }));
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem(0, String(error)));
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <p>
        Of {counted(cells.length, "combination")} make{" "}
        <select
          aria-label="How many combinations"
          className="written"
          disabled={busy}
          value={made === cells.length ? "all" : "some"}
          onChange={(e) => void choose(e.target.value)}
        >
          <option value="all">all</option>
          {made < cells.length && <option value="some">{`${made} of them`}</option>}
          {PARTS.map(([key, text]) => (
            <option key={key} value={key}>
              {text}
            </option>
          ))}
        </select>
        {busy ? " … choosing them" : "."}
      </p>
      <ProblemNote problem={problem} />
    </>
  );
}
