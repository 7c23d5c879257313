/** A piece that is a trial, or counts after all. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";

/** A run that taught the method, not the joint: on record, outside of all statistics. */
export function Trial({
  batch,
  row,
  onDone,
}: {
  batch: number;
  row: Schemas["BreakRow"];
  onDone?: () => void;
}) {
  const [why, setWhy] = useState("");
  const save = useWrite((body: Schemas["TrialIn"]) => writes.trial(batch, body), batch);
  const trial = row.part !== "trial";
  return (
    <div>
      <p className="flex flex-wrap items-center gap-2 text-sm text-faded">
        {trial ? "Was it only a trial?" : "It is a trial."}{" "}
        <input
          type="text"
          aria-label="Reason of the trial"
          className="written w-64 max-w-full"
          placeholder={trial ? "what was learnt" : "why it counts after all"}
          value={why}
          onChange={(e) => setWhy(e.target.value)}
        />
        <Button
          disabled={save.isPending}
          onClick={() => save.mutate({ code: row.code, trial, reason: why }, { onSuccess: () => onDone?.() })}
        >
          {trial ? "Take it out of the results" : "Let it count"}
        </Button>
      </p>
      <ProblemNote problem={save.error} />
    </div>
  );
}
