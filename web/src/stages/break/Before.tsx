/** What was done to a joint before its break, and how thick its line is: dated, each with its size. */
import { useState } from "react";
import { useCatalogue, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { useUnits } from "../../parts/units";
import { QuantityField } from "../../parts/QuantityField";

interface Props {
  batch: number;
  code: string;
}

/** The arm of the load on this piece, where its moment is what counts. */
export function Arm({ batch, code, arm }: Props & { arm: number }) {
  const units = useUnits();
  const save = useWrite(
    (mm: number) => writes.sizes(batch, [{ code, quantity: "arm", text: units.typed(mm, "length") }]),
    batch,
  );
  return (
    <p className="leading-9">
      The load is at an arm of{" "}
      <QuantityField
        label="Arm of the load on this piece"
        dimension="length"
        needed
        value={arm}
        onChange={(v) => v !== null && v !== arm && save.mutate(v)}
      />
      .
      <ProblemNote problem={save.error} />
    </p>
  );
}

export function Before({ batch, code }: Props) {
  const { data: catalogue } = useCatalogue();
  const [what, setWhat] = useState("drilled");
  const [size, setSize] = useState<number | null>(null);
  const [line, setLine] = useState<number | null>(null);
  const [where, setWhere] = useState("");
  const save = useWrite(
    ([kind, value]: [string, Record<string, string | number>]) =>
      writes.jointRecord(batch, { kind, codes: [code], value, note: "", at: null }),
    batch,
  );
  const choices = catalogue?.joint_records.find((k) => k.key === "prepared")?.parts[0]?.choices ?? [];
  return (
    <details className="text-sm no-print">
      <summary className="cursor-pointer text-faded">Done before its break; thickness of the line</summary>
      <p className="leading-9">
        It was{" "}
        <select
          aria-label="What was done before the break"
          className="written"
          value={what}
          onChange={(e) => setWhat(e.target.value)}
        >
          {choices.map((c) => (
            <option key={c}>{c}</option>
          ))}
        </select>{" "}
        by{" "}
        <QuantityField
          label="Size of what was done"
          dimension="length"
          className="w-20"
          placeholder="how large"
          value={size}
          onChange={setSize}
        />{" "}
        <Button
          disabled={save.isPending}
          onClick={() => save.mutate(["prepared", { what, ...(size === null ? {} : { size_mm: size }) }])}
        >
          Note it
        </Button>
      </p>
      <p className="leading-9">
        Its line is{" "}
        <QuantityField
          label="Thickness of the line"
          dimension="length"
          className="w-20"
          placeholder="0.18 mm"
          value={line}
          onChange={setLine}
        />{" "}
        thick at{" "}
        <input
          aria-label="Where the line was measured"
          className="written w-28"
          placeholder="which place"
          value={where}
          onChange={(e) => setWhere(e.target.value)}
        />{" "}
        <Button
          disabled={save.isPending}
          onClick={() => {
            if (line === null) return;
            save.mutate(["line", { mm: line, ...(where.trim() ? { where: where.trim() } : {}) }], {
              onSuccess: () => setWhere(""),
            });
          }}
        >
          Note this place
        </Button>
      </p>
      <ProblemNote problem={save.error} />
    </details>
  );
}
