/** Undo and redo of what was done in this stage, by button or Ctrl+Z and Ctrl+Shift+Z. */
import { useEffect } from "react";
import { useUndo, useWrite, writes, type Stage } from "../api/queries";
import { Button, ProblemNote } from "./controls";

export function UndoBar({ batch, stage }: { batch: number; stage: Stage }) {
  const { data } = useUndo(batch, stage);
  const undo = useWrite(() => writes.undo(batch, stage), batch);
  const redo = useWrite(() => writes.redo(batch, stage), batch);
  const canUndo = Boolean(data?.undo) && !undo.isPending;
  const canRedo = Boolean(data?.redo) && !redo.isPending;
  const runUndo = undo.mutate;
  const runRedo = redo.mutate;

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && e.target.matches("input[type=text], input:not([type]), textarea");
      if (typing || !(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "z") return;
      e.preventDefault();
      if (e.shiftKey && canRedo) runRedo(undefined);
      if (!e.shiftKey && canUndo) runUndo(undefined);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [canUndo, canRedo, runUndo, runRedo]);

  return (
    <div className="no-print">
      <div className="flex flex-wrap items-center gap-x-3">
        <Button look="quiet" disabled={!canUndo} onClick={() => undo.mutate(undefined)} title="Ctrl+Z">
          Undo{data?.undo ? `: ${lower(data.undo)}` : ""}
        </Button>
        {data?.redo && (
          <Button look="quiet" disabled={!canRedo} onClick={() => redo.mutate(undefined)} title="Ctrl+Shift+Z">
            Redo: {lower(data.redo)}
          </Button>
        )}
      </div>
      <ProblemNote problem={undo.error ?? redo.error} />
    </div>
  );
}

function lower(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1, 48) + (text.length > 48 ? " …" : "");
}
