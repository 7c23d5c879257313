/** What others guess before the first break, each in a way of their own; sealed until then. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { clock } from "../../parts/units";

type How = Schemas["GuessIn"]["how"];
const HOW: readonly (readonly [How, string])[] = [
  ["rank", "the order, the highest first"],
  ["load", "the loads"],
  ["share", "shares of the control"],
  ["outcome", "what will come out, in words"],
];
const NAMES = new Map<string, string>(HOW.map(([key, name]) => [key, name.split(",")[0]!]));

export function Guesses({ view }: { view: Schemas["PlanView"] }) {
  const [how, setHow] = useState<How>("rank");
  const [text, setText] = useState("");
  const [values, setValues] = useState<Record<string, number>>({});
  const save = useWrite((body: Schemas["GuessIn"]) => writes.guess(view.batch_id, body), view.batch_id);
  const joints = view.forecast.treatments.filter((t) => t.role === "joint");
  if (!view.can_guess && !view.guesses.length) return null;
  const numbers = how === "load" || how === "share";
  return (
    <section aria-label="Guesses" className="mt-4 border-t border-rule pt-2">
      <h2 className="font-semibold">Guesses</h2>
      <ul className="text-sm text-faded">
        {view.guesses.map((g) => (
          <li key={`${g.person} ${g.how}`}>
            {g.person}, {clock(g.at)}, {NAMES.get(g.how) ?? g.how}:{" "}
            {g.words || "sealed until the first break"}
          </li>
        ))}
      </ul>
      {view.can_guess && (
        <form
          className="leading-9"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(
              {
                how,
                values: numbers ? values : {},
                order:
                  how === "rank"
                    ? text
                        .toUpperCase()
                        .split(/[^A-Z]+/)
                        .filter(Boolean)
                    : [],
                words: how === "outcome" ? text : "",
              },
              {
                onSuccess: () => {
                  setText("");
                  setValues({});
                },
              },
            );
          }}
        >
          Whoever is at the bench guesses{" "}
          <select
            aria-label="How to guess"
            className="written"
            value={how}
            onChange={(e) => setHow(e.target.value as How)}
          >
            {HOW.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
          :{" "}
          {numbers ? (
            joints.map((t) => (
              <span key={t.letter} className="mr-3 inline-block">
                <span className="font-mono">{t.letter}</span>{" "}
                <QuantityField
                  label={`Guess for ${t.letter} ${t.label}`}
                  dimension={how === "load" ? "force" : "share"}
                  className="w-24"
                  placeholder={how === "load" ? "" : "%"}
                  value={values[t.letter] ?? null}
                  onChange={(v) =>
                    setValues(
                      v === null
                        ? Object.fromEntries(Object.entries(values).filter(([k]) => k !== t.letter))
                        : { ...values, [t.letter]: v },
                    )
                  }
                />
              </span>
            ))
          ) : (
            <input
              aria-label={how === "rank" ? "Order guessed" : "Outcome guessed"}
              className="written w-72 max-w-full"
              placeholder={
                how === "rank"
                  ? joints
                      .map((t) => t.letter)
                      .slice(0, 4)
                      .join(" > ")
                  : "the wood will fail first"
              }
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          )}{" "}
          <Button type="submit" disabled={save.isPending}>
            Seal the guess
          </Button>
        </form>
      )}
      <ProblemNote problem={save.error} />
    </section>
  );
}
