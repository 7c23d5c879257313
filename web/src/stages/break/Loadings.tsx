/** A piece loaded several times: all readings stay, one counts; and what happened to it, by one tap. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { letCount, tag } from "../../api/session";
import { Button, ProblemNote } from "../../parts/controls";
import { clock, useUnits } from "../../parts/units";

type Row = Schemas["BreakRow"];

const KINDS: Readonly<Record<string, string>> = {
  exact: "broke at",
  between: "broke between",
  at_least: "held",
  held: "broke after holding",
  fell_apart: "fell apart",
  seen: "opened",
  void: "void",
  proof: "proof loaded to",
};

interface Props {
  batch: number;
  row: Row;
  /** Of the figure that a load gives. */
  dimension: string;
  onAgain: () => void;
  onBeside: () => void;
}

export function Loadings({ batch, row, dimension, onAgain, onBeside }: Props) {
  const units = useUnits();
  const [why, setWhy] = useState("");
  const choose = useWrite((loading: number) => letCount(batch, row.code, { loading, reason: why }), batch);
  const load = (l: Schemas["Loading"]) =>
    [l.low_n, l.kind === "between" ? l.high_n : null]
      .filter((v) => v !== null)
      .map((v) => units.text(v, "force"))
      .join(" and ");
  return (
    <div className="space-y-1 text-sm">
      {row.loadings.length > 1 && (
        <>
          <ol aria-label={`Loadings of ${row.code}`}>
            {row.loadings.map((l) => (
              <li key={l.number} className="flex flex-wrap items-baseline gap-x-2">
                {l.number}. {KINDS[l.kind]} {(l.how === "about" || l.how === "by eye") && "≈ "}
                {load(l)}
                {l.arm_mm !== null && l.figure !== null && (
                  <>
                    {" "}
                    at {units.text(l.arm_mm, "length")}: {units.text(l.figure, dimension, l.figure / 200)}
                  </>
                )}
                {l.ended && `, it ${l.ended}`}, {clock(l.at)}
                {l.beside !== null && <span className="text-faded">another reading of {l.beside}.</span>}
                {l.counts ? (
                  <strong>counts</strong>
                ) : (
                  <Button look="quiet" disabled={choose.isPending} onClick={() => choose.mutate(l.number)}>
                    let this one count
                  </Button>
                )}
              </li>
            ))}
          </ol>
          <input
            aria-label={`Why another loading of ${row.code} counts`}
            className="written w-72 max-w-full"
            placeholder="why another one counts"
            value={why}
            onChange={(e) => setWhy(e.target.value)}
          />
          <ProblemNote problem={choose.error} />
        </>
      )}
      <Button onClick={onAgain}>It is loaded again</Button>{" "}
      <Button onClick={onBeside}>Another reading of this break</Button>
    </div>
  );
}

/** What happens to a piece at the rig: one tap each, with its time; a flag from there on. */
export function Tags({
  batch,
  row,
  words,
  again,
}: {
  batch: number;
  row: Row;
  words: readonly (readonly string[])[];
  /** Of the loading that goes on, not of the one that has its reading. */
  again: boolean;
}) {
  const [own, setOwn] = useState("");
  const save = useWrite(
    (what: string) => tag(batch, { code: row.code, what, note: "", at: null, again }),
    batch,
  );
  return (
    <form
      className="flex flex-wrap items-baseline gap-2 text-sm no-print"
      aria-label={`What happens to ${row.code}`}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(own, { onSuccess: () => setOwn("") });
      }}
    >
      {words.map(([key = ""]) => (
        <Button
          key={key}
          aria-pressed={row.tags.includes(key)}
          disabled={save.isPending}
          onClick={() => save.mutate(key)}
        >
          {key}
        </Button>
      ))}
      <input
        aria-label={`What else happens to ${row.code}`}
        className="written w-32"
        placeholder="something else"
        value={own}
        onChange={(e) => setOwn(e.target.value)}
      />
      <ProblemNote problem={save.error} />
    </form>
  );
}
