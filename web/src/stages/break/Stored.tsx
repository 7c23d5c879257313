/**
 * Readings that the queue does not know yet: what they change on this screen, and what the desk refused of
 * those typed while it did not answer.
 */
import type { Schemas } from "../../api/client";
import { Button, Code, DoubtNote } from "../../parts/controls";
import { again, drop, useEntries, type Entry } from "../../parts/queue";

type View = Schemas["BreakView"];
/** `unread`: pieces whose reading is on record, and has not been read again since it was saved here. */
export type ShownView = View & { unread?: readonly string[] };

/** The queue as it will be once all is sent: what was typed here is not offered again. */
export function withStored(view: ShownView, waiting: readonly Entry<"reading">[]): ShownView {
  if (waiting.length === 0) return view;
  const typed = new Map(waiting.map((e) => [e.body.code, e.body]));
  const rows = view.rows.map((row) => {
    const body = typed.get(row.code);
    if (!body || row.kind !== null) return row;
    return { ...row, ready: `typed${body.low ? ` ${body.low}` : ""}, stored on this device` };
  });
  return { ...view, rows, next: nextBesides(view, (code) => typed.has(code)) };
}

/** The queue right after a reading was written: it goes on at once, and is read again behind that. */
export function withSaved(view: ShownView, code: string, kind: string): ShownView {
  const rows = view.rows.map((row) => (row.code === code && row.kind === null ? { ...row, kind } : row));
  return {
    ...view,
    rows,
    done: rows.filter((row) => row.kind !== null).length,
    loose: view.loose.filter((loose) => loose.code !== code),
    order: view.order.filter((other) => other !== code),
    next: nextBesides(view, (other) => other === code),
    unread: [...(view.unread ?? []), code],
  };
}

/** What is offered once some are broken: as now, else the next in order that no other screen shows. */
function nextBesides(view: View, broken: (code: string) => boolean): string | null {
  if (view.next !== null && !broken(view.next)) return view.next;
  const left = view.order.filter((code) => !broken(code));
  return left.find((code) => !view.elsewhere[code]) ?? left[0] ?? null;
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
