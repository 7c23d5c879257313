/** Undo and redo of what was done in this stage, by button or Ctrl+Z and Ctrl+Shift+Z. */
import { useEffect } from "react";
import type { Problem, Schemas } from "../api/client";
import type { Stage } from "../api/queries";
import { useShopUndo, useUndo } from "../api/undo";
import { Button, ProblemNote } from "./controls";

export function UndoBar({ batch, stage }: { batch: number; stage: Stage }) {
  return <Bar {...useUndo(batch, stage)} />;
}

/** The same for what belongs to no batch: settings, rig, bottles, boards; or studies that were taken in. */
export function ShopUndoBar({ of }: { of: "shop" | "imports" }) {
  const acts = useShopUndo(of);
  return acts.data?.undo || acts.data?.redo ? <Bar {...acts} /> : null;
}

interface Act {
  isPending: boolean;
  error: Problem | null;
  mutate: (nothing: undefined) => void;
}

interface BarProps {
  data: Schemas["UndoView"] | undefined;
  undo: Act;
  redo: Act;
}

function Bar({ data, undo, redo }: BarProps) {
  const canUndo = Boolean(data?.undo) && !undo.isPending;
  const canRedo = Boolean(data?.redo) && !redo.isPending;
  const runUndo = undo.mutate;
  const runRedo = redo.mutate;

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing =
        e.target instanceof HTMLElement && e.target.matches("input[type=text], input:not([type]), textarea");
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
        <Button
          look="quiet"
          disabled={!canUndo}
          onClick={() => undo.mutate(undefined)}
          aria-keyshortcuts="Control+Z"
        >
          Undo{data?.undo ? `: ${lower(data.undo)}` : ""}
        </Button>
        {data?.redo && (
          <Button
            look="quiet"
            disabled={!canRedo}
            onClick={() => redo.mutate(undefined)}
            aria-keyshortcuts="Control+Shift+Z"
          >
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
