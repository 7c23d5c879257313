/** The pull of a piece: begun, ended, zeroed; or another way to its load. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, DoubtNote, Key, ProblemNote } from "../../parts/controls";
import { useFocus } from "../../parts/useFocus";

type View = Schemas["BreakView"];
type Row = Schemas["BreakRow"];

interface PullProps {
  batch: number;
  row: Row;
  view: View;
  pulling: boolean;
  live: boolean;
  /** It has a reading, and is loaded once more. */
  again: boolean;
  onType: () => void;
  onWeights?: () => void;
}

/** Loaded and released on purpose before the break: a fall does not end it. */
function InCycles({ on, onChange }: { on: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex items-center gap-2 text-sm text-faded">
      <input type="checkbox" className="size-6" checked={on} onChange={(e) => onChange(e.target.checked)} />
      in cycles: loaded and let go several times; you end the pull
    </label>
  );
}

export function Pull({ batch, row, view, pulling, live, again, onType, onWeights }: PullProps) {
  const [inCycles, setInCycles] = useState(false);
  const begin = useWrite(
    (confirmed: string[]) => writes.pull(batch, { code: row.code, confirmed, again, in_cycles: inCycles }),
    batch,
  );
  const end = useWrite(() => writes.endPull(), batch);
  const zero = useWrite(() => writes.zero(), batch);
  const hand = useWrite((code: string) => writes.hand(batch, { do: "pull", code }), batch);
  const canPump = pulling && view.simulated && !hand.isSuccess;
  const start = useFocus<HTMLButtonElement>(!pulling && live);
  const lever = useFocus<HTMLButtonElement>(canPump);
  const stop = useFocus<HTMLButtonElement>(pulling && !canPump);
  const problem = end.error ?? zero.error ?? hand.error;
  return (
    <div className="space-y-3">
      <div className="flex flex-wrap gap-3">
        {pulling ? (
          <>
            {canPump && (
              <Button
                look="bench"
                ref={lever}
                disabled={hand.isPending}
                onClick={() => hand.mutate(row.code)}
              >
                Pull the simulated lever
              </Button>
            )}
            <Button
              look={view.simulated ? "plain" : "bench"}
              ref={stop}
              className="min-h-14 px-5 text-lg"
              disabled={end.isPending}
              onClick={() => end.mutate(undefined)}
            >
              End the pull
            </Button>
          </>
        ) : (
          <>
            <Button
              look="bench"
              ref={start}
              disabled={!live || begin.isPending}
              onClick={() => begin.mutate([])}
            >
              Begin to pull
              <Key>Enter</Key>
            </Button>
            <Button className="min-h-14 px-5 text-lg" onClick={onType}>
              Type the load
            </Button>
            {onWeights && (
              <Button className="min-h-14 px-5 text-lg" onClick={onWeights}>
                Hang weights
              </Button>
            )}
            <Button
              className="min-h-14 px-5 text-lg"
              disabled={!live || zero.isPending}
              onClick={() => zero.mutate(undefined)}
            >
              Zero
            </Button>
          </>
        )}
      </div>
      {!pulling && live && <InCycles on={inCycles} onChange={setInCycles} />}
      <p className="min-h-6 text-faded" role="status">
        {pulling
          ? "Recording. Load slowly and evenly; the peak is caught, and the break ends the pull."
          : zero.isSuccess
            ? "Zero taken."
            : ""}
      </p>
      <DoubtNote
        problem={begin.error}
        busy={begin.isPending}
        act="Pull it"
        agreed={begin.variables}
        onConfirm={(confirmed) => begin.mutate(confirmed)}
      />
      <ProblemNote problem={problem} />
    </div>
  );
}
