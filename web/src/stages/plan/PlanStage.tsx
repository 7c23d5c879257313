/** Plan: the question, what differs, what is held, how many; beside it what this can and cannot find out. */
import { Problem } from "../../api/client";
import { usePlan, useReference, useWrite, writes } from "../../api/queries";
import { Button, Cautions, ProblemNote, Waiting } from "../../parts/controls";
import { UndoBar } from "../../parts/UndoBar";
import { Amend } from "./Amend";
import { Beside } from "./Beside";
import { useDraft } from "./draft";
import { Outlook } from "./Outlook";
import { Sentences } from "./Sentences";
import { Start } from "./Start";

export default function PlanStage({ batch }: { batch: number }) {
  const { data: view, error } = usePlan(batch);
  const { data: reference } = useReference();
  if (error && !view) return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!view || !reference) return <Waiting what="the plan" />;
  return <Editor view={view} reference={reference} key={view.kind} />;
}

interface Props {
  view: NonNullable<ReturnType<typeof usePlan>["data"]>;
  reference: NonNullable<ReturnType<typeof useReference>["data"]>;
}

function Editor({ view, reference }: Props) {
  const draft = useDraft(view);
  const locked = view.kind !== "draft";
  const lock = useWrite(async () => writes.lock(view.batch_id, await draft.settled()), view.batch_id);
  const method = reference.methods.find((m) => m.key === draft.document.method);
  const ready = !draft.saving && view.outlook.problems.length === 0;
  return (
    <>
      <div className="grid gap-8 lg:grid-cols-[minmax(0,6fr)_minmax(0,5fr)]">
        <section aria-label="The plan" className="min-w-0">
          {!locked && <Start view={view} reference={reference} settled={draft.settled} key={view.version === 1 ? "first" : "later"} />}
          <Sentences draft={draft} view={view} reference={reference} locked={locked} />
          <ProblemNote problem={draft.problem} />
          {draft.problem?.status === 409 && <Button onClick={() => window.location.reload()}>Reload the plan</Button>}
          <div className="mt-5 flex flex-wrap items-center gap-4">
            {locked ? (
              <p>
                <strong>Locked.</strong> {view.outlook.pieces} pieces have their codes and their random order (seed <span className="tabular-nums">{view.seed}</span>).
              </p>
            ) : (
              <Button look="main" disabled={!ready || lock.isPending} onClick={() => lock.mutate(undefined)}>
                Lock the plan and make {view.outlook.pieces || ""} codes
              </Button>
            )}
            {!locked && (
              <span role="status" className="text-sm text-faded">
                {draft.saving ? "Saving …" : "Saved as a draft"}
              </span>
            )}
          </div>
          <ProblemNote problem={lock.error} />
          <UndoBar batch={view.batch_id} stage="plan" />
          {locked && <Amend view={view} reference={reference} />}
          <Beside view={view} name={draft.name} />
        </section>
        <Outlook view={view} reference={reference} draft={draft} locked={locked} />
      </div>
      <div className="mt-6">
        <Cautions
          items={[
            ...(method?.cautions ?? []),
            "Short pieces at the saw: stop block clear of the off-cut, let the blade stop, cut long strips first.",
            "Shop tests compare; they are not design values. What carries people or a building follows local codes and a licensed engineer.",
          ]}
        />
      </div>
    </>
  );
}
