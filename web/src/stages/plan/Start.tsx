/**
 * Questions to start from: each fills in method, factors, levels, control and what must be held constant.
 * Everything stays editable.
 */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";

interface Props {
  view: Schemas["PlanView"];
  catalogue: Schemas["CatalogueView"];
  /** Waits until everything is saved; the version that stands then. */
  settled: () => Promise<number>;
}

export function Start({ view, catalogue, settled }: Props) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const fresh = !(view.document as { question?: string }).question;
  const [open, setOpen] = useState(fresh);
  const drop = useWrite(writes.dropTemplate, view.batch_id);
  const begin = async (from: string | number) => {
    try {
      const version = await settled();
      const saved = await (typeof from === "number"
        ? writes.fromTemplate(view.batch_id, version, from)
        : writes.startFrom(view.batch_id, version, from));
      client.setQueryData(["batch", view.batch_id, "plan"], saved);
      setProblem(null);
      setOpen(false);
      void client.invalidateQueries({ queryKey: ["batch", view.batch_id, "undo"] });
      void client.invalidateQueries({ queryKey: ["today"] });
    } catch (error) {
      setProblem(error instanceof Problem ? error : new Problem(0, String(error)));
    }
  };
  return (
    <details
      className="mb-4 border-y border-rule py-2"
      open={open}
      onToggle={(e) => setOpen(e.currentTarget.open)}
    >
      <summary className="cursor-pointer font-semibold">
        {fresh ? "Start from a question" : "Start from another question"}
      </summary>
      <ul className="mt-2 grid gap-x-6 gap-y-1 sm:grid-cols-2">
        {catalogue.questions
          .filter((q) => q.key !== "own")
          .map((q) => (
            <li key={q.key}>
              <button
                type="button"
                className="w-full rounded-md px-2 py-1 text-left hover:bg-sheet"
                onClick={() => void begin(q.key)}
              >
                <span className="block font-semibold text-spruce">{q.name}</span>
                <span className="block text-sm text-faded">{q.hint}</span>
              </button>
            </li>
          ))}
      </ul>
      {view.templates.length > 0 && (
        <>
          <h3 className="head mt-3">Your templates</h3>
          <ul>
            {view.templates.map((t) => (
              <li key={t.id} className="flex items-baseline gap-3">
                <button
                  type="button"
                  className="min-w-0 rounded-md px-2 py-1 text-left hover:bg-sheet"
                  onClick={() => void begin(t.id)}
                >
                  <span className="font-semibold text-spruce wrap-anywhere">{t.name}</span>{" "}
                  <span className="text-sm text-faded">{t.question}</span>
                </button>
                <Button
                  look="quiet"
                  className="ml-auto shrink-0 text-sm"
                  disabled={drop.isPending}
                  onClick={() => drop.mutate(t.id)}
                >
                  forget
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="mt-2 text-sm text-faded">
        <button
          type="button"
          className="px-2 text-base font-semibold text-spruce underline underline-offset-4"
          onClick={() => setOpen(false)}
        >
          A question of my own
        </button>{" "}
        Undo brings back what was there.
      </p>
      <ProblemNote problem={problem} />
    </details>
  );
}
