/** Amendments of a locked plan: more pieces of a treatment, or one left out; each with its reason, nothing overwritten. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { clock } from "../../parts/units";

export function Amend({ view }: { view: Schemas["PlanView"] }) {
  const [treatment, setTreatment] = useState(view.outlook.treatments[0]?.letter ?? "");
  const [count, setCount] = useState(2);
  const [reason, setReason] = useState("");
  const clear = { onSuccess: () => setReason("") };
  const more = useWrite((body: Schemas["MoreIn"]) => writes.more(view.batch_id, body), view.batch_id);
  const out = useWrite((body: Schemas["LeaveOutIn"]) => writes.leaveOut(view.batch_id, body), view.batch_id);
  const busy = more.isPending || out.isPending;
  return (
    <section aria-label="Amendments" className="mt-4 border-t border-rule pt-2">
      <ul className="text-sm text-faded">
        {view.notes
          .filter((n) => n.kind === "amended")
          .map((n) => (
            <li key={n.number}>
              {clock(n.at)}: {n.summary}, because {n.reason}
              {n.person && ` (${n.person})`}
            </li>
          ))}
      </ul>
      <details>
        <summary className="cursor-pointer text-faded">Amend the plan</summary>
        <p className="leading-10">
          Of treatment{" "}
          <select aria-label="Treatment to amend" className="written" value={treatment} onChange={(e) => setTreatment(e.target.value)}>
            {view.outlook.treatments.map((t) => (
              <option key={t.letter} value={t.letter}>
                {t.letter} {t.label}
              </option>
            ))}
          </select>
          , because{" "}
          <input aria-label="Reason of the amendment" className="written w-72 max-w-full" placeholder="two pieces were spoiled at the saw" value={reason} aria-invalid={more.error?.of("reason") || out.error?.of("reason") ? true : undefined} onChange={(e) => setReason(e.target.value)} />
          ,{" "}
          <Button className="leading-6" disabled={busy} onClick={() => more.mutate({ treatment, count, reason }, clear)}>
            make
          </Button>{" "}
          <input aria-label="More pieces" type="number" min={1} max={100} className="written w-14 text-center" value={count} onChange={(e) => setCount(Math.round(Number(e.target.value) || 0))} /> more, or{" "}
          <Button className="leading-6" disabled={busy} onClick={() => out.mutate({ treatment, reason }, clear)}>
            leave it out
          </Button>{" "}
          from now on.
        </p>
        <p className="text-sm text-faded">More pieces come last in the order: what changes over the day runs along with them. Pieces already broken stay in the results.</p>
        <ProblemNote problem={more.error ?? out.error} />
      </details>
    </section>
  );
}
