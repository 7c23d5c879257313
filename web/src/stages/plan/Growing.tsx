/** A locked plan that grows: a factor gains a level, or pieces are drawn from store for another age. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { CountField } from "../../parts/CountField";
import { Button, ProblemNote } from "../../parts/controls";
import { Line, Value } from "./common";
import { levelOf } from "./draft";

interface Props {
  view: Schemas["PlanView"];
  catalogue: Schemas["CatalogueView"];
  reason: string;
}

export function Growing({ view, catalogue, reason }: Props) {
  return (
    <>
      <MoreLevel view={view} catalogue={catalogue} reason={reason} />
      <FromStore view={view} catalogue={catalogue} reason={reason} />
    </>
  );
}

/** A further level, made in every combination with the other factors. */
function MoreLevel({ view, catalogue, reason }: Props) {
  const document = view.document as unknown as Schemas["PlanDocument"];
  const [key, setKey] = useState(document.factors[0]?.key ?? "");
  const [level, setLevel] = useState<Schemas["LevelIn"] | null>(null);
  const [count, setCount] = useState(document.replicates);
  const save = useWrite((body: Schemas["NewLevelIn"]) => writes.level(view.batch_id, body), view.batch_id);
  const field = catalogue.fields.find((f) => f.key === key);
  if (!key) return null;
  return (
    <form
      className="leading-10"
      onSubmit={(e) => {
        e.preventDefault();
        if (level) save.mutate({ factor: key, level, count, reason }, { onSuccess: () => setLevel(null) });
      }}
    >
      Add to{" "}
      <select
        aria-label="Factor that gains a level"
        className="written"
        value={key}
        onChange={(e) => {
          setKey(e.target.value);
          setLevel(null);
        }}
      >
        {document.factors.map((f) => (
          <option key={f.key} value={f.key}>
            {f.name.toLowerCase()}
          </option>
        ))}
      </select>{" "}
      the level{" "}
      {field ? (
        <Value key={key} field={field} label="New level" level={level ?? undefined} onChange={setLevel} />
      ) : (
        <Line
          label="New level"
          value={String(level?.value ?? "")}
          disabled={false}
          className="w-40"
          onChange={(text) => setLevel(levelOf(text))}
        />
      )}
      , <CountField label="Pieces of each new treatment" value={count} onChange={setCount} /> of each new
      treatment,{" "}
      <Button type="submit" className="leading-6" disabled={save.isPending || level === null}>
        make them
      </Button>
      .
      <ProblemNote problem={save.error} />
    </form>
  );
}

/** Pieces in store, taken at random when their occasion comes. */
function FromStore({ view, catalogue, reason }: Props) {
  const joints = view.forecast.treatments.filter((t) => t.role === "joint");
  const [treatment, setTreatment] = useState(joints[0]?.letter ?? "");
  const [count, setCount] = useState(3);
  const [age, setAge] = useState<Schemas["LevelIn"] | null>(null);
  const save = useWrite((body: Schemas["DrawIn"]) => writes.draw(view.batch_id, body), view.batch_id);
  const field = catalogue.fields.find((f) => f.key === "cure_s")!;
  return (
    <form
      className="leading-10"
      onSubmit={(e) => {
        e.preventDefault();
        if (age) save.mutate({ treatment, count, age, reason }, { onSuccess: () => setAge(null) });
      }}
    >
      Take <CountField label="Pieces from store" value={count} onChange={setCount} /> of{" "}
      <select
        aria-label="Treatment in store"
        className="written"
        value={treatment}
        onChange={(e) => setTreatment(e.target.value)}
      >
        {joints.map((t) => (
          <option key={t.letter} value={t.letter}>
            {t.letter} {t.label}
          </option>
        ))}
      </select>{" "}
      from store to be broken at the age of{" "}
      <Value field={field} label="Age of those from store" level={age ?? undefined} onChange={setAge} />,{" "}
      <Button type="submit" className="leading-6" disabled={save.isPending || age === null}>
        draw them
      </Button>
      .
      <ProblemNote problem={save.error} />
    </form>
  );
}
