/** The protocol in the plan: what every joint goes through before it is closed, with its waits. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useProtocols, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { Line, type PlanProps } from "./common";

type Step = Schemas["ProtocolStepIn"];
const EMPTY: Step = { text: "", treatments: [], wait_s: null, within_s: null, id: "" };

export function ProtocolSteps({ draft, view, locked }: PlanProps) {
  const { document: d, change } = draft;
  const { data: kept } = useProtocols();
  const [name, setName] = useState("");
  const keep = useWrite((body: Schemas["ProtocolIn"]) => writes.keepProtocol(body));
  const steps = d.protocol ?? [];
  const put = (protocol: Step[]) => change({ protocol });
  const set = (i: number, part: Partial<Step>) => put(steps.map((s, n) => (n === i ? { ...s, ...part } : s)));
  const problem = (i: number, field: string) =>
    view.forecast.problems.find((p) => p.field === `protocol.${i}.${field}`)?.message;
  const joints = view.forecast.treatments.filter((t) => t.role === "joint");
  if (locked && !steps.length) return null;
  return (
    <div>
      <p>
        Before it is closed, every joint goes through{steps.length ? ":" : " nothing more than its prep."}
      </p>
      {steps.map((s, i) => (
        <p key={i} className="pl-4">
          {i + 1}.{" "}
          <Line
            label={`Step ${i + 1}`}
            value={s.text}
            disabled={locked}
            placeholder="wipe with solvent"
            className="w-56"
            bad={Boolean(problem(i, "text"))}
            onChange={(text) => set(i, { text })}
          />
          , wait at least{" "}
          <QuantityField
            label={`Wait after step ${i + 1}`}
            dimension="time"
            unit="min"
            className="w-20"
            placeholder="none"
            disabled={locked}
            value={s.wait_s ?? null}
            problem={problem(i, "wait_s")}
            onChange={(wait_s) => set(i, { wait_s })}
          />
          , close within{" "}
          <QuantityField
            label={`Hold of step ${i + 1}`}
            dimension="time"
            unit="min"
            className="w-20"
            placeholder="any time"
            disabled={locked}
            value={s.within_s ?? null}
            problem={problem(i, "within_s")}
            onChange={(within_s) => set(i, { within_s })}
          />{" "}
          <select
            aria-label={`Step ${i + 1} is for`}
            className="written"
            disabled={locked}
            value={s.treatments?.length === 1 ? s.treatments[0] : s.treatments?.length ? "some" : ""}
            onChange={(e) => set(i, { treatments: e.target.value ? [e.target.value] : [] })}
          >
            <option value="">for all</option>
            {(s.treatments?.length ?? 0) > 1 && <option value="some">for some</option>}
            {joints.map((t) => (
              <option key={t.id} value={t.id}>
                for {t.letter} {t.label}
              </option>
            ))}
          </select>
          {!locked && (
            <Button
              look="quiet"
              aria-label={`Leave out step ${i + 1}`}
              onClick={() => put(steps.filter((_, n) => n !== i))}
            >
              leave out
            </Button>
          )}
        </p>
      ))}
      {!locked && (
        <p className="flex flex-wrap items-baseline gap-x-4 text-sm leading-8">
          <Button look="quiet" onClick={() => put([...steps, EMPTY])}>
            A step
          </Button>
          {Object.keys(kept ?? {}).length > 0 && (
            <select
              aria-label="Take kept steps"
              className="written"
              value=""
              onChange={(e) =>
                put([...steps, ...(kept?.[e.target.value] ?? []).map((s) => ({ ...EMPTY, ...s, id: "" }))])
              }
            >
              <option value="">take kept steps …</option>
              {Object.keys(kept ?? {}).map((key) => (
                <option key={key} value={key}>
                  {key}
                </option>
              ))}
            </select>
          )}
          {steps.length > 0 && (
            <span>
              <input
                aria-label="Name for these steps"
                className="written w-40"
                placeholder="primed epoxy"
                value={name}
                onChange={(e) => setName(e.target.value)}
              />{" "}
              <Button
                look="quiet"
                disabled={keep.isPending || !name.trim()}
                onClick={() => keep.mutate({ name, steps: [...steps] }, { onSuccess: () => setName("") })}
              >
                keep these steps
              </Button>
            </span>
          )}
        </p>
      )}
      <ProblemNote problem={keep.error} />
    </div>
  );
}
