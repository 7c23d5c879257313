/** The glue-ups: what is in clamps with its count-down, and exceptions by piece. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, DoubtNote, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { clock, counted, hour, span, useUnits } from "../../parts/units";
import { useNow } from "../../parts/useNow";

export function InClamps({ batch, view }: { batch: number; view: Schemas["GlueView"] }) {
  const units = useUnits();
  const now = useNow();
  const off = useWrite(
    ([codes, confirmed]: readonly [string[], string[]]) => writes.unclamp(batch, codes, confirmed),
    batch,
  );
  if (!view.glueups.length) return null;
  return (
    <section aria-label="Glue-ups">
      <ul className="grid gap-3 md:grid-cols-2">
        {view.glueups.map(({ glueup: g, pieces, in_clamps, exceptions, ended_at }) => {
          const own = view.pieces.filter((p) => p.glueup === g.number);
          const held = own.filter((p) => !p.unclamped_at && p.clamp_until);
          const due = held.map((p) => (new Date(p.clamp_until ?? 0).getTime() - now) / 1000);
          const first = Math.min(...due);
          const last = Math.max(...due);
          const ready = held.filter((_, i) => due[i]! <= 0);
          return (
            <li key={g.id} className="sheet flex flex-col gap-1 px-4 py-3">
              <p className="flex flex-wrap items-baseline justify-between gap-x-4">
                <strong>Glue-up {g.number}</strong>
                <span className="text-sm text-faded">
                  {clock(g.started_at)}
                  {ended_at && ` to ${hour(ended_at)}`}
                  {g.person && `, ${g.person}`}
                </span>
              </p>
              <p className="text-sm text-faded">
                {counted(pieces, "joint")}
                {g.bottle && ` from ${g.bottle}`}
                {g.air_c !== null && `, ${units.text(g.air_c, "temperature")}`}
                {g.humidity_pct !== null && `, ${g.humidity_pct} % humidity`}
                {g.force_n !== null && `, ${g.clamps} × ${units.text(g.force_n, "force")}, ${g.force_known}`}
                {exceptions > 0 && `, ${exceptions} with an exception`}
                {g.note && `. ${g.note}`}
              </p>
              {in_clamps > 0 ? (
                <div className="mt-1 flex flex-wrap items-center justify-between gap-3">
                  <p className="text-2xl font-semibold" aria-label="Time left in the clamp">
                    {first > 0
                      ? span(first)
                      : last > 0
                        ? `${ready.length} ready, last in ${span(last)}`
                        : `${span(last)} over`}
                  </p>
                  <span className="flex flex-wrap gap-2">
                    {ready.length > 0 && ready.length < held.length && (
                      <Button
                        look="main"
                        disabled={off.isPending}
                        onClick={() => off.mutate([ready.map((p) => p.code), []])}
                      >
                        Clamps off the {ready.length} ready
                      </Button>
                    )}
                    <Button
                      look={ready.length === held.length ? "main" : "plain"}
                      disabled={off.isPending}
                      onClick={() => off.mutate([held.map((p) => p.code), []])}
                    >
                      Clamps off all {in_clamps}
                    </Button>
                  </span>
                </div>
              ) : (
                <p className="text-sm">All out of their clamps.</p>
              )}
              <Exception batch={batch} codes={own.map((p) => p.code)} />
            </li>
          );
        })}
      </ul>
      <DoubtNote
        problem={off.error}
        busy={off.isPending}
        act="Take them off"
        agreed={off.variables?.[1] ?? []}
        onConfirm={(confirmed) => off.mutate([off.variables?.[0] ?? [], confirmed])}
      />
    </section>
  );
}

function Exception({ batch, codes }: { batch: number; codes: readonly string[] }) {
  const [open, setOpen] = useState(false);
  const [code, setCode] = useState("");
  const [note, setNote] = useState("");
  const [force, setForce] = useState<number | null>(null);
  const save = useWrite((body: Schemas["ExceptionIn"]) => writes.exception(batch, body), batch);
  if (!open)
    return (
      <span>
        <Button look="quiet" onClick={() => setOpen(true)}>
          Something was different for one piece
        </Button>
      </span>
    );
  return (
    <form
      className="leading-9"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(
          { code: code || (codes[0] ?? ""), note, ...(force === null ? {} : { force_n: force }) },
          {
            onSuccess: () => {
              setOpen(false);
              setNote("");
              setForce(null);
            },
          },
        );
      }}
    >
      <select aria-label="Piece" className="written" value={code} onChange={(e) => setCode(e.target.value)}>
        {codes.map((c) => (
          <option key={c}>{c}</option>
        ))}
      </select>{" "}
      <input
        aria-label="What was different"
        className="written w-60"
        placeholder="slipped, starved, clamped twice …"
        value={note}
        onChange={(e) => setNote(e.target.value)}
      />{" "}
      pressed with{" "}
      <QuantityField
        label="Force on this piece"
        dimension="force"
        value={force}
        onChange={setForce}
        placeholder="as the rest"
        className="w-28"
      />{" "}
      <Button type="submit" disabled={(!note.trim() && force === null) || save.isPending}>
        Note it
      </Button>
      <ProblemNote problem={save.error} />
    </form>
  );
}
