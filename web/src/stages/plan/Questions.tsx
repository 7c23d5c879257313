/**
 * What the study is to find out: questions by kind, each with the answer as it will read. They can be changed
 * and put in another order at any time, after the lock too.
 */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { useUnits } from "../../parts/units";
import type { PlanProps } from "./common";
import { askedFactors, levelName } from "./draft";
import { Rehearse } from "./Rehearse";

type Asked = Schemas["QuestionIn"];
type View = PlanProps["view"];
type Kind = Asked["kind"];

/** Kinds that need something to be held against, a state to follow, or a factor to be told apart by. */
const AGAINST: readonly Kind[] = [
  "better_than",
  "is_it_true",
  "does_it_matter",
  "does_it_depend",
  "is_it_worth_it",
];
const ALONG: readonly Kind[] = ["what_is_left", "does_it_last"];

/** Kinds for which some share of the strength, or of the pieces, is what counts. */
const BY_SHARE: readonly Kind[] = [
  "how_much_is_enough",
  "what_is_left",
  "does_it_last",
  "does_it_pass",
  "is_it_true",
];

/** Kinds that may be judged by something else than the average, and by what. */
const JUDGED_OTHERWISE: readonly Kind[] = ["which_is_best", "better_than"];
const JUDGED_BY: readonly (readonly [string, string])[] = [
  ["average", "the average"],
  ["weakest", "the weakest piece"],
  ["wood", "breaks in the wood"],
  ["limit", "my limit"],
];

/** Kinds that can be rehearsed: their truth follows from what is expected of each treatment. */
const REHEARSED: readonly Kind[] = [
  "which_is_best",
  "better_than",
  "does_it_matter",
  "how_much_is_enough",
  "what_is_left",
  "does_it_last",
  "close_to_solid",
  "does_it_depend",
  "is_it_true",
];

/** A question to be kept. The plan's own words stand in the plan alone, so that they can't differ from it. */
const plain = (q: Schemas["AskedView"], own: string): Asked => ({
  kind: q.kind,
  of: q.of,
  along: q.along,
  against: q.against,
  within: q.within,
  share: q.share,
  figure: q.figure as Asked["figure"],
  judge_by: q.judge_by as Asked["judge_by"],
  words: q.words === own ? "" : q.words,
  late: q.late,
  id: q.id,
});

export function Questions({ draft, view, catalogue, locked }: PlanProps) {
  const [edited, setEdited] = useState<Asked[] | null>(null);
  const save = useWrite((questions: Asked[]) => writes.askQuestions(view.batch_id, questions), view.batch_id);
  const own = (draft.document.questions ?? []) as Asked[];
  const shown: Asked[] =
    locked && edited
      ? edited
      : own.length
        ? own
        : view.questions.map((q) => plain(q, draft.document.question));
  const factors = askedFactors(draft.document);
  const set = (questions: Asked[]) => (locked ? setEdited(questions) : draft.change({ questions }));
  const at = (i: number, more: Partial<Asked>) => set(shown.map((q, n) => (n === i ? { ...q, ...more } : q)));
  return (
    <section aria-labelledby="questions" className="mt-4">
      <h2 id="questions" className="text-lg font-bold">
        What do you want to find out?
      </h2>
      <ol className="space-y-3">
        {shown.map((q, i) => (
          <li key={`${q.id} ${i}`} className="border-l-4 border-rule pl-3">
            <One
              question={q}
              number={i + 1}
              view={view}
              catalogue={catalogue}
              factors={factors}
              onChange={(more) => at(i, more)}
              onFirst={i > 0 ? () => set([q, ...shown.filter((_, n) => n !== i)]) : undefined}
              onRemove={shown.length > 1 ? () => set(shown.filter((_, n) => n !== i)) : undefined}
            />
          </li>
        ))}
      </ol>
      <p className="mt-2 flex flex-wrap items-center gap-3">
        {shown.length === 0 && (
          <span className="text-faded">Once something differs, it can be asked about.</span>
        )}
        {shown.length > 0 && shown.length < 12 && (
          <Button
            onClick={() =>
              set([
                ...shown,
                {
                  ...shown[0]!,
                  id: "",
                  words: "",
                  late: false,
                  ...suited("does_it_matter", shown[0]!, factors),
                },
              ])
            }
          >
            Ask something more
          </Button>
        )}
        {locked && edited && (
          <Button
            look="main"
            disabled={save.isPending}
            onClick={() => save.mutate(edited, { onSuccess: () => setEdited(null) })}
          >
            Save the questions
          </Button>
        )}
      </p>
      <ProblemNote problem={save.error} />
    </section>
  );
}

interface OneProps {
  question: Asked;
  number: number;
  view: View;
  catalogue: PlanProps["catalogue"];
  factors: PlanProps["draft"]["document"]["factors"];
  onChange: (more: Partial<Asked>) => void;
  onFirst: (() => void) | undefined;
  onRemove: (() => void) | undefined;
}

function One({ question: q, number, view, catalogue, factors, onChange, onFirst, onRemove }: OneProps) {
  const saved = view.questions.find(
    (x) =>
      x.kind === q.kind &&
      x.of === q.of &&
      x.against === q.against &&
      x.along === q.along &&
      x.within === q.within &&
      x.share === q.share &&
      x.judge_by === q.judge_by,
  );
  const of = factors.find((f) => f.key === q.of);
  const units = useUnits();
  const field = catalogue.fields.find((f) => f.key === q.of);
  const pick = (
    label: string,
    value: string,
    choices: readonly (readonly [string, string])[],
    set: (v: string) => void,
  ) => (
    <select
      aria-label={`${label} ${number}`}
      className="written max-w-64"
      value={value}
      onChange={(e) => set(e.target.value)}
    >
      {choices.map(([key, name]) => (
        <option key={key} value={key}>
          {name}
        </option>
      ))}
    </select>
  );
  const others = factors.filter((f) => f.key !== q.of).map((f) => [f.key, midway(f.name)] as const);
  const lines = [...new Set(view.kinds.map((k) => k.line))];
  return (
    <>
      <p className="leading-8">
        <select
          aria-label={`Asked ${number}`}
          className="written max-w-full font-semibold"
          value={q.kind}
          onChange={(e) => onChange(suited(e.target.value as Kind, q, factors))}
        >
          {lines.map((line) => (
            <optgroup key={line} label={line}>
              {view.kinds
                .filter((k) => k.line === line)
                .map((k) => (
                  <option key={k.kind} value={k.kind}>
                    {line} {k.about && `(${k.about})`}
                  </option>
                ))}
            </optgroup>
          ))}
        </select>{" "}
        asked of{" "}
        {pick(
          "Of what is asked",
          q.of,
          factors.map((f) => [f.key, `the ${midway(f.name)}`] as const),
          (v) => onChange({ of: v, against: "", along: "", within: "" }),
        )}
        {AGAINST.includes(q.kind) && of && (
          <>
            {" "}
            against{" "}
            {pick(
              "Held against in",
              q.against ?? "",
              [
                ["", "each other"],
                ...of.levels.map((l) => [l.id ?? "", levelName(l, field, units)] as const),
              ],
              (against) => onChange({ against }),
            )}
          </>
        )}
        {ALONG.includes(q.kind) && others.length > 0 && (
          <>
            {" "}
            along{" "}
            {pick(
              "Followed along in",
              q.along ?? "",
              [["", "its own levels"], ...others.map(([k, n]) => [k, `the ${n}`] as const)],
              (along) => onChange({ along, against: along ? "own" : (of?.levels[0]?.id ?? "") }),
            )}
          </>
        )}
        {!ALONG.includes(q.kind) && others.length > 0 && (
          <>
            , answered{" "}
            {pick(
              "Answered in",
              q.within ?? "",
              [["", "over all"], ...others.map(([k, n]) => [k, `for each ${n}`] as const)],
              (within) => onChange({ within }),
            )}
          </>
        )}
        {BY_SHARE.includes(q.kind) && (
          <>
            ; what counts is{" "}
            <input
              key={q.share}
              aria-label={`What counts in ${number}, %`}
              className="written w-12 text-right"
              inputMode="numeric"
              defaultValue={Math.round(100 * (q.share ?? 0.9))}
              onBlur={(e) => {
                const typed = Number(e.target.value);
                if (typed > 0 && typed <= (q.kind === "is_it_true" ? 500 : 100))
                  onChange({ share: typed / 100 });
                else e.target.value = String(Math.round(100 * (q.share ?? 0.9)));
              }}
            />{" "}
            %{" "}
            {q.kind === "does_it_pass"
              ? "of all such pieces passing"
              : q.kind === "is_it_true"
                ? "of it or more"
                : "of the strength"}
          </>
        )}
        {JUDGED_OTHERWISE.includes(q.kind) && (
          <>
            , judged by{" "}
            {pick("Judged by in", q.judge_by ?? "average", JUDGED_BY, (v) =>
              onChange({ judge_by: v as Asked["judge_by"] }),
            )}
          </>
        )}
        {onFirst && (
          <button type="button" className="ml-2 text-sm underline underline-offset-4" onClick={onFirst}>
            ask first
          </button>
        )}
        {onRemove && (
          <button
            type="button"
            aria-label={`Leave ${number} out`}
            className="ml-2 px-1.5 text-faded hover:text-alarm"
            onClick={onRemove}
          >
            ×
          </button>
        )}
        {q.late && <span className="ml-2 text-sm text-notice">asked after results were seen</span>}
      </p>
      {(number > 1 || q.words) && (
        <input
          key={q.words}
          aria-label={`${number} in my words`}
          className="written w-full max-w-xl text-sm"
          placeholder={saved?.asks || "in my words"}
          defaultValue={q.words}
          onBlur={(e) => e.target.value.trim() !== q.words && onChange({ words: e.target.value.trim() })}
        />
      )}
      {saved?.preview && (
        <p className="text-sm text-faded">
          Your answer will read: <q>{saved.preview}</q>
        </p>
      )}
      {saved && REHEARSED.includes(q.kind) && q.judge_by === "average" && of && (
        <Rehearse
          batch={view.batch_id}
          version={view.version}
          place={view.questions.indexOf(saved)}
          number={number}
          levels={(factors.find((f) => f.key === (q.along || q.of)) ?? of).levels.map(
            (l) =>
              [
                l.id ?? "",
                levelName(
                  l,
                  catalogue.fields.find((f) => f.key === (q.along || q.of)),
                  units,
                ),
              ] as const,
          )}
        />
      )}
      {saved?.lacks.map((text) => (
        <p key={text} className="text-sm text-notice">
          {text}
        </p>
      ))}
    </>
  );
}

/** A name in mid sentence: a small first letter, unless the name is spelled in capitals. */
const midway = (name: string): string =>
  /^.[a-z]/.test(name) ? name.charAt(0).toLowerCase() + name.slice(1) : name;

/** What goes with a kind once it is chosen: a reference, a state, a factor to be told apart by. */
function suited(kind: Kind, q: Asked, factors: OneProps["factors"]): Partial<Asked> {
  const of = factors.find((f) => f.key === q.of) ?? factors[0];
  const other = factors.find((f) => f.key !== of?.key);
  const first = of?.levels[0]?.id ?? "";
  const more: Partial<Asked> = { kind, of: of?.key ?? "", against: "", along: "", within: "" };
  if (kind === "better_than" || kind === "is_it_true") return { ...more, against: first };
  if (kind === "which_for_what") return { ...more, within: other?.key ?? "" };
  if (kind === "does_it_depend") return { ...more, against: first, within: other?.key ?? "" };
  if (kind === "close_to_solid") return { ...more, against: "solid" };
  if (ALONG.includes(kind))
    return other ? { ...more, along: other.key, against: "own" } : { ...more, against: first };
  return more;
}
