/** Plan: the question, what differs, what is held, how many; beside it what this can and cannot find out. */
import { useState } from "react";
import { Problem } from "../../api/client";
import { usePlan, useCatalogue, useWrite, writes } from "../../api/queries";
import { Button, Cautions, ProblemNote, Waiting } from "../../parts/controls";
import { UndoBar } from "../../parts/UndoBar";
import { Amend } from "./Amend";
import { PlanComparison } from "./PlanComparison";
import { useDraft } from "./draft";
import { Forecast } from "./Forecast";
import { Guesses } from "./Guesses";
import { GoodEnough } from "./GoodEnough";
import { WhatIsCompared } from "./WhatIsCompared";
import { Sentences } from "./Sentences";
import { Start } from "./Start";
import { counted } from "../../parts/units";

export default function PlanStage({ batch }: { batch: number }) {
  const { data: view, error } = usePlan(batch);
  const { data: catalogue } = useCatalogue();
  if (error && !view)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!view || !catalogue) return <Waiting what="the plan" />;
  return <Editor view={view} catalogue={catalogue} key={view.kind} />;
}

interface Props {
  view: NonNullable<ReturnType<typeof usePlan>["data"]>;
  catalogue: NonNullable<ReturnType<typeof useCatalogue>["data"]>;
}

function Editor({ view, catalogue }: Props) {
  const draft = useDraft(view);
  const locked = view.kind !== "draft";
  const [seed, setSeed] = useState("");
  const lock = useWrite(
    async () => writes.lock(view.batch_id, await draft.settled(), /^\d+$/.test(seed) ? Number(seed) : null),
    view.batch_id,
  );
  const method = catalogue.methods.find((m) => m.key === draft.document.method);
  // While a draft is being saved the problems of the one before say nothing: the lock waits for it.
  const ready = draft.saving || view.forecast.problems.length === 0;
  return (
    <>
      <div className="grid gap-8 lg:grid-cols-[minmax(0,6fr)_minmax(0,5fr)]">
        <section aria-label="The plan" className="min-w-0">
          {!locked && (
            <Start
              view={view}
              catalogue={catalogue}
              settled={draft.settled}
              key={view.version === 1 ? "first" : "later"}
            />
          )}
          <Sentences draft={draft} view={view} catalogue={catalogue} locked={locked} />
          <WhatIsCompared draft={draft} view={view} catalogue={catalogue} locked={locked} />
          <GoodEnough draft={draft} view={view} catalogue={catalogue} locked={locked} />
          <ProblemNote problem={draft.problem} />
          {draft.problem?.status === 409 && (
            <Button onClick={() => window.location.reload()}>Reload the plan</Button>
          )}
          <div className="mt-5 flex flex-wrap items-center gap-4">
            {locked ? (
              <p>
                <strong>Locked.</strong>{" "}
                {counted(
                  view.forecast.pieces,
                  "piece has its code and its",
                  "pieces have their codes and their",
                )}{" "}
                random order (seed <span className="tabular-nums">{view.seed}</span>).
              </p>
            ) : (
              <Button look="main" disabled={!ready || lock.isPending} onClick={() => lock.mutate(undefined)}>
                Lock the plan and make {draft.saving ? "its" : view.forecast.pieces || ""} codes
              </Button>
            )}
            {!locked && (
              <label className="text-sm text-faded">
                random orders from seed{" "}
                <input
                  aria-label="Seed of the random orders"
                  className="written w-28"
                  inputMode="numeric"
                  placeholder={String(view.seed)}
                  value={seed}
                  onChange={(e) => setSeed(e.target.value.replace(/\D/g, "").slice(0, 15))}
                />
              </label>
            )}
            {!locked && (
              <span role="status" className="text-sm text-faded">
                {draft.saving ? "Saving …" : "Saved as a draft"}
              </span>
            )}
          </div>
          <ProblemNote problem={lock.error} />
          <UndoBar batch={view.batch_id} stage="plan" />
          {locked && <Guesses view={view} />}
          {locked && <Amend view={view} catalogue={catalogue} />}
          <PlanComparison view={view} name={draft.name} />
        </section>
        <Forecast view={view} catalogue={catalogue} draft={draft} locked={locked} />
      </div>
      <div className="mt-6">
        <Cautions
          items={[
            ...(method?.cautions ?? []),
            "Short pieces at the saw: stop block clear of the off-cut, blade at rest, long strips first.",
            "Shop tests compare; they are not design values. " +
              "What carries people or a building follows local codes and a licensed engineer.",
          ]}
        />
      </div>
    </>
  );
}
