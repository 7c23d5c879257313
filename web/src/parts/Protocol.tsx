/** The steps of the protocol: what was done, left out or is open, marked for many joints at once. */
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useProtocol, useWrite, writes } from "../api/queries";
import { Button, ProblemNote } from "./controls";
import { span } from "./units";

type State = Schemas["MarkIn"]["state"];
const SAY: readonly (readonly [State, string])[] = [
  ["done", "done now"],
  ["late", "done, but late"],
  ["not done", "not done"],
];

export function Protocol({ batch }: { batch: number }) {
  const { data } = useProtocol(batch);
  const [whom, setWhom] = useState("");
  const [note, setNote] = useState("");
  const save = useWrite((body: Schemas["MarkIn"]) => writes.mark(batch, body), batch);
  if (!data?.steps.length) return null;
  const letters = [...new Set(Object.values(data.treatments))].sort();
  const isMeant = (code: string) => !whom || code === whom || data.treatments[code] === whom;
  const codes = Object.keys(data.treatments);
  return (
    <section aria-label="Protocol" className="no-print">
      <h2 className="flex flex-wrap items-baseline gap-x-4 text-lg font-bold">
        Protocol
        <label className="text-base font-normal">
          of{" "}
          <select
            aria-label="Joints of the protocol"
            className="written"
            value={whom}
            onChange={(e) => setWhom(e.target.value)}
          >
            <option value="">all joints</option>
            {letters.map((letter) => (
              <option key={letter} value={letter}>
                treatment {letter}
              </option>
            ))}
            {codes.map((code) => (
              <option key={code} value={code}>
                {code}
              </option>
            ))}
          </select>
        </label>
        <input
          aria-label="With what the step is done"
          className="written w-56 text-base font-normal"
          placeholder="with what: bottle, mix"
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
      </h2>
      <ul>
        {data.steps.map((s) => {
          const open = s.open.filter(isMeant);
          const all = [...s.done, ...s.late, ...s.not_done, ...s.open].filter(isMeant);
          const said = [
            [s.done, "done"],
            [s.late, "late"],
            [s.not_done, "not done"],
          ] as const;
          return (
            <li
              key={s.step.id}
              className="flex flex-wrap items-baseline gap-x-3 gap-y-1 border-t border-rule py-1.5"
            >
              <span className="min-w-0 flex-1 wrap-anywhere">
                <span className="font-semibold">{s.step.text}</span>
                {s.step.wait_s && <span className="text-faded">, then wait {span(s.step.wait_s)}</span>}
                {s.step.within_s && <span className="text-faded">, holds for {span(s.step.within_s)}</span>}
              </span>
              <span className="text-sm text-faded">
                {said
                  .map(([own, name]) => [own.filter(isMeant).length, name] as const)
                  .filter(([n]) => n > 0)
                  .map(([n, name]) => `${n} ${name}`)
                  .concat(open.length ? [`${open.length} open`] : [])
                  .join(", ")}
              </span>
              {SAY.map(([state, text]) => (
                <Button
                  key={state}
                  className="text-sm"
                  aria-label={`${s.step.text}: ${text}`}
                  disabled={save.isPending || !all.length}
                  onClick={() =>
                    save.mutate(
                      { step: s.step.id ?? "", codes: open.length ? open : all, state, at: null, note },
                      { onSuccess: () => setNote("") },
                    )
                  }
                >
                  {text}
                </Button>
              ))}
            </li>
          );
        })}
      </ul>
      <ProblemNote problem={save.error} />
    </section>
  );
}
