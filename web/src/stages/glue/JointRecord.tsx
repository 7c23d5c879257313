/**
 * What else is noted of glued joints, of all that are shown or of one: how the glue went on, what
 * slipped, the squeeze-out.
 */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCatalogue, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { stamp } from "./ToldTimes";

type Part = Schemas["PartView"];

export function JointRecord({ batch, pieces }: { batch: number; pieces: readonly Schemas["GluePiece"][] }) {
  const { data: catalogue } = useCatalogue();
  const [kind, setKind] = useState("squeeze-out");
  const [whom, setWhom] = useState("");
  const [value, setValue] = useState<Record<string, string>>({});
  const [note, setNote] = useState("");
  const [at, setAt] = useState("");
  const save = useWrite((body: Schemas["JointRecordIn"]) => writes.jointRecord(batch, body), batch);
  const glued = pieces.filter((p) => p.glueup !== null);
  const known = catalogue?.joint_records.find((k) => k.key === kind);
  if (!catalogue || !known || !glued.length) return null;
  const one = glued.some((p) => p.code === whom);
  const codes = one ? [whom] : glued.map((p) => p.code);
  const problem = (key: string) => save.error?.of(`value.${key}`)?.message;
  return (
    <details className="no-print">
      <summary className="cursor-pointer font-semibold">
        Add a note on joints, also from paper: how the glue went on, what slipped, the squeeze-out
      </summary>
      <form
        className="leading-10"
        onSubmit={(e) => {
          e.preventDefault();
          save.mutate(
            { kind, codes, value: read(known.parts, value), note, at: stamp(at) },
            { onSuccess: () => setNote("") },
          );
        }}
      >
        Of{" "}
        <select
          aria-label="Which joints"
          className="written"
          value={one ? whom : ""}
          onChange={(e) => setWhom(e.target.value)}
        >
          <option value="">all {glued.length} that are shown below</option>
          {glued.map((p) => (
            <option key={p.code} value={p.code}>
              {p.code}
            </option>
          ))}
        </select>
        :{" "}
        <select
          aria-label="What is noted"
          className="written"
          value={kind}
          onChange={(e) => {
            setKind(e.target.value);
            setValue({});
            save.reset();
          }}
        >
          {catalogue.joint_records.map((k) => (
            <option key={k.key} value={k.key}>
              {k.name.toLowerCase()}
            </option>
          ))}
        </select>{" "}
        {known.parts.map((part) => (
          <PartField
            key={part.key}
            part={part}
            value={value[part.key] ?? ""}
            problem={problem(part.key)}
            onChange={(text) => setValue({ ...value, [part.key]: text })}
          />
        ))}
        <input
          aria-label="Note on it"
          className="written w-48"
          placeholder="note"
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />{" "}
        at{" "}
        <input
          type="datetime-local"
          aria-label="When it was"
          className="written"
          value={at}
          aria-invalid={save.error?.of("at") ? true : undefined}
          onChange={(e) => setAt(e.target.value)}
        />{" "}
        <Button type="submit" className="leading-6" disabled={save.isPending}>
          Note it
        </Button>
        {save.isSuccess && (
          <span role="status" className="ml-3 text-sm text-faded">
            Noted of {save.data.pieces}.
          </span>
        )}
        <ProblemNote problem={save.error} />
      </form>
    </details>
  );
}

interface PartProps {
  part: Part;
  value: string;
  problem: string | undefined;
  onChange: (text: string) => void;
}

function PartField({ part, value, problem, onChange }: PartProps) {
  return (
    <span className="whitespace-nowrap">
      {part.name}{" "}
      {part.choices.length > 0 ? (
        <select
          aria-label={part.name}
          className="written"
          value={value}
          onChange={(e) => onChange(e.target.value)}
        >
          <option value="">…</option>
          {part.choices.map((c) => (
            <option key={c}>{c}</option>
          ))}
        </select>
      ) : (
        <input
          aria-label={part.name}
          inputMode={part.words ? "text" : "decimal"}
          className={`written ${part.words ? "w-40" : "w-16 text-center"}`}
          value={value}
          aria-invalid={problem ? true : undefined}
          onChange={(e) => onChange(e.target.value)}
        />
      )}
      {part.unit && ` ${part.unit}`},{" "}
    </span>
  );
}

/** Numbers as numbers; what is not one is sent as it was typed, so that the server names the field. */
function read(
  parts: readonly Part[],
  typed: Readonly<Record<string, string>>,
): Record<string, string | number | null> {
  const found: Record<string, string | number | null> = {};
  for (const part of parts) {
    const text = (typed[part.key] ?? "").trim();
    if (!text) continue;
    const number = Number(text.replace(",", "."));
    found[part.key] = part.choices.length > 0 || part.words || Number.isNaN(number) ? text : number;
  }
  return found;
}
