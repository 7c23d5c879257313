/** A further crossing beside the grid: fields with the levels listed behind them, the control first. */
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import type { Problem, Schemas } from "../../api/client";
import { crossed } from "../../api/queries";
import { ChoiceField } from "../../parts/ChoiceField";
import { CountField } from "../../parts/CountField";
import { Button, ProblemNote } from "../../parts/controls";
import { counted } from "../../parts/units";
import { Line, type PlanProps } from "./common";
import { ableFields } from "./draft";

interface Row {
  key: string;
  text: string;
}

export function Crossing({ draft, view, catalogue }: PlanProps) {
  const [open, setOpen] = useState(false);
  const [said, setSaid] = useState("");
  if (!open)
    return (
      <p className="text-sm leading-7">
        <Button look="quiet" onClick={() => setOpen(true)}>
          A further crossing
        </Button>{" "}
        <span className="text-faded">
          of other fields, with a question and a control of its own. <span role="status">{said}</span>
        </span>
      </p>
    );
  return (
    <CrossingForm
      {...{ draft, view, catalogue }}
      onDone={(words) => {
        setSaid(words);
        setOpen(false);
      }}
    />
  );
}

interface FormProps extends Omit<PlanProps, "locked"> {
  onDone: (said: string) => void;
}

function CrossingForm({ draft, view, catalogue, onDone }: FormProps) {
  const [question, setQuestion] = useState("");
  const [rows, setRows] = useState<Row[]>([
    { key: "", text: "" },
    { key: "", text: "" },
  ]);
  const [replicates, setReplicates] = useState(draft.document.replicates);
  const fields = ableFields(catalogue, view);
  const cross = useMutation<Schemas["Crossed"], Problem>({
    mutationFn: () =>
      crossed({
        document: draft.document,
        question,
        factors: rows.filter((r) => r.key).map((r) => ({ ...r, unit: "" })),
        replicates,
      }),
    onSuccess: ({ document, treatments, made }) => {
      draft.change(document as unknown as Partial<typeof draft.document>);
      onDone(
        made === treatments
          ? `${counted(made, "treatment")} added.`
          : `${counted(made, "treatment")} added; ${treatments - made} the plan makes already.`,
      );
    },
  });
  const set = (i: number, part: Partial<Row>) =>
    setRows(rows.map((r, j) => (i === j ? { ...r, ...part } : r)));
  return (
    <form
      aria-label="A further crossing"
      className="border-l-2 border-rule pl-3 leading-10"
      onSubmit={(e) => {
        e.preventDefault();
        cross.mutate();
      }}
    >
      A further crossing asks{" "}
      <Line
        label="Question of the crossing"
        value={question}
        disabled={false}
        placeholder="does sanding help the weak glues?"
        className="w-80 max-w-full"
        onChange={setQuestion}
      />
      {rows.map((r, i) => (
        <span key={i} className="block">
          {i ? "× " : "of "}
          <ChoiceField
            label={`Field ${i + 1} of the crossing`}
            className="w-44"
            value={r.key}
            placeholder="what …"
            choices={fields
              .filter((f) => f.key === r.key || !rows.some((x) => x.key === f.key))
              .map((f) => [f.key, f.name] as const)}
            onChange={(key) => set(i, { key })}
          />{" "}
          as{" "}
          <Line
            label={`Levels ${i + 1} of the crossing`}
            value={r.text}
            disabled={false}
            placeholder={i ? "sanded 120, planed" : "pva-damp, casein, hide-hot"}
            className="w-96 max-w-full"
            onChange={(text) => set(i, { text })}
          />
        </span>
      ))}
      <span className="block">
        {rows.length < 4 && (
          <Button
            look="quiet"
            className="mr-3 text-sm"
            onClick={() => setRows([...rows, { key: "", text: "" }])}
          >
            and another field
          </Button>
        )}
        <CountField label="Pieces of each of the crossing" value={replicates} onChange={setReplicates} /> of
        each; the first of every list is its control.{" "}
        <Button type="submit" className="leading-6" disabled={cross.isPending}>
          Cross them
        </Button>{" "}
        <Button look="quiet" onClick={() => onDone("")}>
          Not now
        </Button>
      </span>
      <ProblemNote problem={cross.error} />
    </form>
  );
}
