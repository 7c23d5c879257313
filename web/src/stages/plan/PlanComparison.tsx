/**
 * The plan beside others: kept as a file or a template, begun again, or held against another batch's
 * plan.
 */
import { useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useAgainst, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { Differences } from "../../parts/Differences";

export function PlanComparison({ view, name }: { view: Schemas["PlanView"]; name: string }) {
  const go = useNavigate();
  const copy = useWrite((title: string) => writes.copyBatch(view.batch_id, title), view.batch_id);
  const keep = useWrite((title: string) => writes.keepTemplate(view.batch_id, title), view.batch_id);
  const [other, setOther] = useState<number | null>(null);
  return (
    <div className="no-print mt-2">
      <p className="flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <a
          className="text-spruce underline underline-offset-4"
          href={`/api/batches/${view.batch_id}/plan.json`}
        >
          Save the plan as a file
        </a>
        <Button
          look="quiet"
          className="py-0"
          disabled={copy.isPending}
          onClick={() =>
            copy.mutate(`${name}, again`, { onSuccess: (made) => void go(`/batch/${made.id}/plan`) })
          }
        >
          Plan another like it
        </Button>
        <Button look="quiet" className="py-0" disabled={keep.isPending} onClick={() => keep.mutate(name)}>
          Keep as a template
        </Button>
        {view.others.length > 0 && (
          <label>
            Differs from{" "}
            <select
              aria-label="Plan to hold against"
              className="written max-w-56"
              value={other ?? ""}
              onChange={(e) => setOther(e.target.value ? Number(e.target.value) : null)}
            >
              <option value="">another plan …</option>
              {view.others.map(([id, title]) => (
                <option key={id} value={id}>
                  {title}
                </option>
              ))}
            </select>
          </label>
        )}
        {keep.isSuccess && (
          <span role="status" className="text-sm text-faded">
            Kept: the next draft can start from it.
          </span>
        )}
      </p>
      <ProblemNote problem={copy.error ?? keep.error} />
      {other !== null && <Against batch={view.batch_id} other={other} />}
    </div>
  );
}

function Against({ batch, other }: { batch: number; other: number }) {
  const { data } = useAgainst(batch, other);
  return data ? <Differences {...data} /> : null;
}
