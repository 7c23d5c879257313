/**
 * What if: a few more clamps, or an evening more, against the schedule as it stands. Nothing is kept
 * until it is taken.
 */
import { CountField } from "../../parts/CountField";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWorkingHours, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { clock, counted } from "../../parts/units";

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"] as const;
const EVENING = [17 * 60, 22 * 60] as const;

export function WhatIf({
  batch,
  onTake,
}: {
  batch: number;
  onTake: (allowed: Schemas["Allowed"][]) => void;
}) {
  const { data: bench } = useWorkingHours();
  const [kind, setKind] = useState("");
  const [more, setMore] = useState(2);
  const [day, setDay] = useState("");
  const ask = useWrite((body: Schemas["WhatIfIn"]) => writes.whatIf(batch, body));
  if (!bench) return null;
  const found = ask.data;
  const clamps: Record<string, number> = kind ? { [kind]: more } : {};
  const evenings: [number, number, number][] = day === "" ? [] : [[Number(day), EVENING[0], EVENING[1]]];
  // An answer holds only for what was asked.
  const change = (make: () => void) => {
    make();
    ask.reset();
  };
  const take = () => {
    const label = bench.clamps.find((c) => String(c.id) === kind)?.label ?? "";
    const day7 = Number(day);
    onTake([
      ...(kind
        ? [{ kind: "clamps", text: `${more} more of ${label}`, amount: more, key: kind, codes: [] }]
        : []),
      ...(day === ""
        ? []
        : [
            {
              kind: "evening",
              text: `${DAYS[day7]} from 17 to 22 as well`,
              amount: 0,
              key: `${day7}-${EVENING[0]}-${EVENING[1]}`,
              codes: [],
            },
          ]),
    ]);
    ask.reset();
  };
  return (
    <details className="no-print">
      <summary className="cursor-pointer text-faded">What if …</summary>
      <p className="leading-10">
        there were{" "}
        <CountField
          label="How many more clamps"
          max={100}
          value={more}
          onChange={(n) => change(() => setMore(n))}
        />{" "}
        more of{" "}
        <select
          aria-label="Which clamps"
          className="written"
          value={kind}
          onChange={(e) => change(() => setKind(e.target.value))}
        >
          <option value="">no clamps</option>
          {bench.clamps.map((c) => (
            <option key={c.id} value={c.id}>
              {c.label}
            </option>
          ))}
        </select>
        , and{" "}
        <select
          aria-label="Which evening"
          className="written"
          value={day}
          onChange={(e) => change(() => setDay(e.target.value))}
        >
          <option value="">no evening more</option>
          {DAYS.map((name, n) => (
            <option key={name} value={n}>
              {name} from 17 to 22 as well
            </option>
          ))}
        </select>
        ?{" "}
        <Button
          className="leading-6"
          disabled={ask.isPending || (!kind && day === "")}
          onClick={() => ask.mutate({ clamps, evenings })}
        >
          Work it out
        </Button>
      </p>
      {found && (
        <p role="status">
          Done by <strong>{clock(found.finish)}</strong> in {found.visits} visits, instead of{" "}
          {clock(found.before.finish)} in {found.before.visits}
          {found.unplaced + found.before.unplaced > 0 &&
            `; ${counted(found.unplaced, "joint")} without a time instead of ${found.before.unplaced}`}
          . <Button onClick={take}>Schedule it so</Button>
        </p>
      )}
      <ProblemNote problem={ask.error} />
    </details>
  );
}
