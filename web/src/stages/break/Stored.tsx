/** Readings typed while the desk did not answer: what they change here, and what it refused of them. */
import type { Schemas } from "../../api/client";
import { Button, Code, DoubtNote } from "../../parts/controls";
import { again, drop, useEntries, type Entry } from "../../parts/queue";

type View = Schemas["BreakView"];

/** The queue as it will be once all is sent: what was typed here is not offered again. */
export function withStored(view: View, waiting: readonly Entry<"reading">[]): View {
  if (waiting.length === 0) return view;
  const typed = new Map(waiting.map((e) => [e.body.code, e.body]));
  const rows = view.rows.map((row) => {
    const body = typed.get(row.code);
    if (!body || row.kind !== null) return row;
    return { ...row, ready: `typed${body.low ? ` ${body.low}` : ""}, stored on this device` };
  });
  const isLeft = (row: Schemas["BreakRow"]) => row.kind === null && !row.ready;
  const stands = view.next !== null && !typed.has(view.next);
  return { ...view, rows, next: stands ? view.next : (rows.find(isLeft)?.code ?? null) };
}

/** What the desk did not take is asked here: nothing that was typed goes away by itself. */
export function StoredRefused({ batch }: { batch: number }) {
  const { refused } = useEntries("reading", batch);
  if (!refused) return null;
  const { entry, problem } = refused;
  return (
    <section aria-label="Not taken by the desk" className="sheet space-y-2 px-4 py-3">
      <p>
        <Code>{entry.body.code}</Code> was typed {entry.body.low && `with ${entry.body.low} `}while the desk
        did not answer; it did not take that.
      </p>
      <DoubtNote
        problem={problem}
        busy={false}
        act="Save it"
        agreed={entry.body.confirmed}
        onConfirm={(confirmed) => again(entry, { ...entry.body, confirmed })}
      />
      <p className="flex flex-wrap gap-3">
        {!problem.isDoubt && <Button onClick={() => again(entry)}>Send it once more</Button>}
        <Button look="quiet" onClick={() => drop(entry.key)}>
          Leave it out
        </Button>
      </p>
    </section>
  );
}
