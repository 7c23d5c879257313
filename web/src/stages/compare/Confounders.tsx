/**
 * What stands around the comparison: what runs along, what left its tolerance, side questions, claims,
 * trials and swaps.
 */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Code, Notice, ProblemNote } from "../../parts/controls";
import { counted, useUnits } from "../../parts/units";
import { inWords } from "../../parts/figures";
import { AnswerTable } from "./MainAnswer";

type View = Schemas["CompareView"];

/** Whether anything is to be told of how the pieces were made and tested. */
export const isAnythingMade = (view: View): boolean =>
  [
    view.units,
    view.departed,
    view.not_noted,
    view.inspected,
    view.adherence,
    view.sides,
    view.claims,
    view.figureless,
    view.trials,
    view.swaps,
  ].some((told) => told.length > 0) || view.times_to_peak.length > 1;

export function Confounders({ batch, view }: { batch: number; view: View }) {
  const many = view.departed.length > FEW;
  const list = (
    <ul>
      {view.departed.map((d) => (
        <li key={d.code + d.text}>
          <Code>{d.code}</Code> ({d.treatment}): {d.text}
        </li>
      ))}
    </ul>
  );
  return (
    <div className="space-y-4">
      {view.units.length > 0 && (
        <section aria-label="Units of the analysis" className="text-sm">
          {view.units.map((text) => (
            <p key={text}>{text}</p>
          ))}
        </section>
      )}
      {view.departed.length > 0 && (
        <section aria-label="Outside of the tolerance">
          <h3 className="head mb-1">Outside of the plan’s tolerance</h3>
          {many ? (
            <details>
              <summary className="cursor-pointer">{counted(view.departed.length, "departure")}</summary>
              {list}
            </details>
          ) : (
            list
          )}
        </section>
      )}
      {view.not_noted.map((text) => (
        <p key={text} className="text-sm text-notice">
          {text}.
        </p>
      ))}
      {view.inspected.length > 0 && (
        <section aria-label="On the way to the break" className="text-sm">
          <h3 className="head mb-1">On the way to the break</h3>
          {view.inspected.map((text) => (
            <p key={text}>{text}.</p>
          ))}
        </section>
      )}
      {view.adherence.length > 0 && (
        <section aria-label="Against the schedule" className="text-sm text-faded">
          <h3 className="head mb-1">Against the schedule</h3>
          {view.adherence.map((text) => (
            <p key={text}>{text}.</p>
          ))}
        </section>
      )}
      {view.sides.map((side) => (
        <Side key={side.question} side={side} view={view} />
      ))}
      {view.claims.length > 0 && <Claims batch={batch} view={view} />}
      {view.figureless.length > 0 && (
        <section aria-label="Without a figure here" className="text-sm">
          <h3 className="head mb-1">Without a figure here</h3>
          <ul>
            {view.figureless.map(([code = "", letter, why]) => (
              <li key={code}>
                <span className="font-mono font-semibold">{code}</span> ({letter}): {why}
              </li>
            ))}
          </ul>
        </section>
      )}
      {(view.trials.length > 0 || view.swaps.length > 0) && (
        <section aria-label="Not counted" className="text-sm text-faded">
          {view.trials.length > 0 && (
            <p>Trials, on record but outside of all figures: {view.trials.join(", ")}.</p>
          )}
          {view.swaps.map(([out, spare, why]) => (
            <p key={out}>
              {out} was put aside ({why}); the spare {spare} stands for it.
            </p>
          ))}
        </section>
      )}
    </div>
  );
}

const FEW = 6;

function Side({ side, view }: { side: Schemas["SideAnswer"]; view: View }) {
  const units = useUnits();
  return (
    <section aria-label={`Side question: ${side.question}`}>
      <h3 className="head mb-1">Besides: {side.question}</h3>
      <p className="font-semibold">{side.answer.text}</p>
      {side.answer.evidence.map((text) => (
        <p key={text}>{text}</p>
      ))}
      <AnswerTable answer={side.answer} number={side.question} />
      <ul className="mt-1 text-sm text-faded">
        {side.treatments.map((t) => (
          <li key={t.letter}>
            <span className="font-mono">{t.letter}</span> {inWords(units, view, t)}
          </li>
        ))}
      </ul>
    </section>
  );
}

const STATES = ["supported", "not supported", "not tested"] as const;

function Claims({ batch, view }: { batch: number; view: View }) {
  const units = useUnits();
  const save = useWrite((body: Schemas["ClaimIn"]) => writes.claim(batch, body), batch);
  // What answers a side question stands apart from the main comparison, and may decide a claim all the same.
  const compared = [...view.treatments, ...view.sides.flatMap((s) => s.treatments)].filter(
    (t, i, all) => all.findIndex((x) => x.letter === t.letter) === i,
  );
  return (
    <section aria-label="Claims">
      <h3 className="head mb-1">Claims</h3>
      <ul className="space-y-2">
        {view.claims.map((c) => {
          const figures = compared
            .filter((t) => c.treatments.includes(t.letter))
            .map((t) => inWords(units, view, t));
          return (
            <li key={c.id} className="border-l-2 border-rule pl-3">
              <p className="font-semibold">{c.text}</p>
              {c.by_figures && (
                <p>
                  By its figures: <strong>{c.by_figures}</strong>.{" "}
                  <span className="text-sm text-faded">
                    {(c.figures ?? []).map((f) => `${f}.`).join(" ")}
                  </span>
                </p>
              )}
              {figures.length > 0 && <p className="text-sm text-faded">{figures.join("; ")}</p>}
              {c.objection && <Notice>{c.objection}.</Notice>}
              <ClaimEnd
                key={c.state + c.note}
                claim={c}
                pending={save.isPending}
                onSay={(state, note) => save.mutate({ claim: c.id, state, note })}
              />
            </li>
          );
        })}
      </ul>
      <ProblemNote problem={save.error} />
    </section>
  );
}

function ClaimEnd({
  claim,
  pending,
  onSay,
}: {
  claim: Schemas["ClaimView"];
  pending: boolean;
  onSay: (state: string, note: string) => void;
}) {
  const [note, setNote] = useState(claim.note);
  return (
    <p className="flex flex-wrap items-center gap-x-3">
      <select
        aria-label={`How it ended: ${claim.text}`}
        className="written"
        disabled={pending}
        value={claim.state}
        onChange={(e) => onSay(e.target.value, note)}
      >
        <option value="" disabled>
          how it ended …
        </option>
        {STATES.map((s) => (
          <option key={s}>{s}</option>
        ))}
      </select>
      <input
        aria-label={`Why: ${claim.text}`}
        className="written w-72 max-w-full"
        placeholder="which figures decide it"
        value={note}
        onChange={(e) => setNote(e.target.value)}
        onBlur={() => claim.state && note !== claim.note && onSay(claim.state, note)}
      />
    </p>
  );
}
