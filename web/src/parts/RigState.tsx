/** How the rig in use stands: how the load follows from its reading, its check weight, and an overload. */
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useWrite } from "../api/queries";
import { tellCheck, tellInspected } from "../api/rigs";
import { Button, Notice, ProblemNote } from "./controls";
import { clock, unitOfMass } from "./units";

export function RigState({ state, batch }: { state: Schemas["RigState"]; batch?: number }) {
  const looked = useWrite(() => tellInspected(""), batch);
  return (
    <div className="space-y-2 text-sm no-print">
      {state.words.length > 0 && (
        <p className="text-faded">The load on the piece: {state.words.join("; ")}.</p>
      )}
      {state.overload_at && (
        <Notice>
          At the end of its range with {state.overload_code}, {clock(state.overload_at)}: look for bent parts,
          check its zero and a known weight.{" "}
          <Button disabled={looked.isPending} onClick={() => looked.mutate(undefined)}>
            Looked over, and sound
          </Button>
        </Notice>
      )}
      {state.drifted && state.drift !== null && (
        <Notice>
          Its check weight was read {percent(state.drift)} off: what is read now is flagged. Look for friction
          and a bent arm, or calibrate it anew under Shop.
        </Notice>
      )}
      <ProblemNote problem={looked.error} />
      {state.measures !== "travel" && <CheckWeight state={state} {...(batch ? { batch } : {})} />}
    </div>
  );
}

const percent = (share: number): string =>
  `${share > 0 ? "+" : "\u2212"}${Math.abs(100 * share).toFixed(1)} %`;

/** A known weight before a session: what hangs there, and what is shown. */
function CheckWeight({ state, batch }: { state: Schemas["RigState"]; batch?: number }) {
  const [known, setKnown] = useState("");
  const [shown, setShown] = useState("");
  const save = useWrite(tellCheck, batch);
  const box = (label: string, value: string, hint: string, set: (v: string) => void) => (
    <input
      aria-label={label}
      className="written w-24"
      value={value}
      placeholder={hint}
      onChange={(e) => set(e.target.value)}
    />
  );
  return (
    <form
      className="flex flex-wrap items-baseline gap-x-2 gap-y-1"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(
          { known, shown, note: "" },
          {
            onSuccess: () => {
              setKnown("");
              setShown("");
            },
          },
        );
      }}
    >
      A check weight of {box("Check weight", known, "25 kg", setKnown)} shows{" "}
      {box("What it shows", shown, state.measures === "mass" ? unitOfMass(state.unit) : state.unit, setShown)}
      <Button type="submit" disabled={save.isPending}>
        Write down
      </Button>
      {state.checked_at && state.drift !== null && (
        <span className="text-faded">
          last {clock(state.checked_at)}: {percent(state.drift)}
        </span>
      )}
      <ProblemNote problem={save.error} />
    </form>
  );
}
