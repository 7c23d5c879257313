/**
 * Amendments of a locked plan: more pieces, another control, treatments left out; each with its reason,
 * nothing overwritten.
 */
import { CountField } from "../../parts/CountField";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { clock } from "../../parts/units";
import { Value } from "./common";
import { usualLevel } from "./draft";
import { Growing } from "./Growing";

interface Props {
  view: Schemas["PlanView"];
  catalogue: Schemas["CatalogueView"];
}

export function Amend({ view, catalogue }: Props) {
  const [treatment, setTreatment] = useState(view.forecast.treatments[0]?.letter ?? "");
  const [count, setCount] = useState(2);
  const [reason, setReason] = useState("");
  const [leaving, setLeaving] = useState<readonly string[]>([]);
  const clear = {
    onSuccess: () => {
      setReason("");
      setLeaving([]);
    },
  };
  const more = useWrite((body: Schemas["MoreIn"]) => writes.more(view.batch_id, body), view.batch_id);
  const out = useWrite((body: Schemas["LeaveOutIn"]) => writes.leaveOut(view.batch_id, body), view.batch_id);
  const control = useWrite(
    (body: Schemas["ControlIn"]) => writes.control(view.batch_id, body),
    view.batch_id,
  );
  const busy = more.isPending || out.isPending || control.isPending;
  const refused = [more.error, out.error, control.error].some((e) => e?.of("reason"));
  const joints = view.forecast.treatments.filter((t) => t.role === "joint");
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
          Because{" "}
          <input
            aria-label="Reason of the amendment"
            className="written w-72 max-w-full"
            placeholder="two pieces were spoiled at the saw"
            value={reason}
            aria-invalid={refused || undefined}
            onChange={(e) => setReason(e.target.value)}
          />
          , of treatment{" "}
          <select
            aria-label="Treatment to amend"
            className="written"
            value={treatment}
            onChange={(e) => setTreatment(e.target.value)}
          >
            {view.forecast.treatments.map((t) => (
              <option key={t.letter} value={t.letter}>
                {t.letter} {t.label}
              </option>
            ))}
          </select>{" "}
          <Button
            className="leading-6"
            disabled={busy}
            onClick={() => more.mutate({ treatment, count, reason }, clear)}
          >
            make
          </Button>{" "}
          <CountField label="More pieces" max={100} value={count} onChange={setCount} /> more, or{" "}
          <Button
            className="leading-6"
            disabled={busy}
            onClick={() => control.mutate({ treatment, reason }, clear)}
          >
            hold the others against it
          </Button>{" "}
          as the control.
        </p>
        <fieldset className="leading-8">
          <legend>Or, for that reason, these are not run, as far as they are not broken yet:</legend>
          {joints.map((t) => (
            <label key={t.id} className="mr-4 inline-flex items-center gap-1.5">
              <input
                type="checkbox"
                className="size-5"
                aria-label={`Leave out ${t.letter} ${t.label}`}
                checked={leaving.includes(t.letter)}
                onChange={(e) =>
                  setLeaving(
                    e.target.checked
                      ? [...leaving, t.letter]
                      : leaving.filter((letter) => letter !== t.letter),
                  )
                }
              />
              <span className="font-mono">{t.letter}</span> {t.label}
            </label>
          ))}
          <Button
            className="leading-6"
            disabled={busy || !leaving.length}
            onClick={() => out.mutate({ treatments: [...leaving], reason }, clear)}
          >
            leave {leaving.length > 1 ? "them" : "it"} out
          </Button>
        </fieldset>
        <Constant view={view} catalogue={catalogue} reason={reason} />
        <Another view={view} catalogue={catalogue} reason={reason} />
        <Growing view={view} catalogue={catalogue} reason={reason} />
        <p className="text-sm text-faded">
          More pieces come last in the order: what changes over the day runs along with them. Pieces already
          broken stay in the results.
        </p>
        <ProblemNote problem={more.error ?? out.error ?? control.error} />
      </details>
    </section>
  );
}

interface PartProps extends Props {
  reason: string;
}

/** Hold a constant at another value: what is made already keeps its own. */
function Constant({ view, catalogue, reason }: PartProps) {
  const document = view.document as unknown as Schemas["PlanDocument"];
  const held = catalogue.fields.filter(
    (f) => f.key in document.constants && f.key !== "species" && f.key !== "form",
  );
  const [key, setKey] = useState("pressure_mpa");
  const [level, setLevel] = useState<Schemas["LevelIn"] | null>(null);
  const save = useWrite((body: Schemas["ConstantIn"]) => writes.constant(view.batch_id, body), view.batch_id);
  const field = held.find((f) => f.key === key) ?? held[0];
  if (!field) return null;
  const now = level ?? document.constants[field.key];
  return (
    <>
      <p className="leading-10">
        From now on hold{" "}
        <select
          aria-label="Constant to change"
          className="written"
          value={field.key}
          onChange={(e) => {
            setKey(e.target.value);
            setLevel(null);
          }}
        >
          {held.map((f) => (
            <option key={f.key} value={f.key}>
              {f.name.toLowerCase()}
            </option>
          ))}
        </select>{" "}
        at{" "}
        <Value
          key={field.key}
          field={field}
          label="New value of the constant"
          level={now}
          onChange={setLevel}
        />
        ,{" "}
        <Button
          className="leading-6"
          disabled={save.isPending || level === null}
          onClick={() =>
            level && save.mutate({ field: field.key, level, reason }, { onSuccess: () => setLevel(null) })
          }
        >
          change it
        </Button>
        .
      </p>
      <ProblemNote problem={save.error} />
    </>
  );
}

/** A further single treatment, like the control but for one thing. */
function Another({ view, catalogue, reason }: PartProps) {
  const [label, setLabel] = useState("");
  const [count, setCount] = useState(4);
  const [key, setKey] = useState("pressure_mpa");
  const field = catalogue.fields.find((f) => f.key === key)!;
  const [level, setLevel] = useState<Schemas["LevelIn"] | null>(null);
  const now = level ?? usualLevel(field, view);
  const save = useWrite(
    (body: Schemas["TreatmentIn"]) => writes.treatment(view.batch_id, body),
    view.batch_id,
  );
  const value = (
    <Value key={key} field={field} label="Value in the new treatment" level={now} onChange={setLevel} />
  );
  return (
    <>
      <p className="leading-10">
        Add the treatment{" "}
        <input
          aria-label="Name of the new treatment"
          className="written w-40"
          placeholder="its name"
          value={label}
          onChange={(e) => setLabel(e.target.value)}
        />
        , like the control but with{" "}
        <select
          aria-label="What differs in the new treatment"
          className="written"
          value={key}
          onChange={(e) => {
            setKey(e.target.value);
            setLevel(null);
          }}
        >
          {catalogue.fields
            .filter((f) => f.key !== "species")
            .map((f) => (
              <option key={f.key} value={f.key}>
                {f.name.toLowerCase()}
              </option>
            ))}
        </select>{" "}
        {value}:{" "}
        <Button
          className="leading-6"
          disabled={save.isPending}
          onClick={() =>
            save.mutate(
              {
                treatment: {
                  label,
                  changes: { [key]: now },
                  replicates: count,
                  control: null,
                  late: 1,
                  id: "",
                },
                reason,
              },
              { onSuccess: () => setLabel("") },
            )
          }
        >
          make
        </Button>{" "}
        <CountField label="Pieces of the new treatment" max={100} value={count} onChange={setCount} /> pieces.
      </p>
      <ProblemNote problem={save.error} />
    </>
  );
}
