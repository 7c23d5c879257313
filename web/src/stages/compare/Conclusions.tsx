/** What one concludes, each statement held against the figures; and comments on what limits it. */
import { useState } from "react";
import { comment, conclude, takeBack } from "../../api/conclusions";
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { UndoBar } from "../../parts/UndoBar";
import { Copy } from "./Copy";

type View = Schemas["CompareView"];
type Said = Schemas["ConclusionIn"];

const SAYS: readonly (readonly [string, string])[] = [
  ["stronger", "is stronger than"],
  ["weaker", "is weaker than"],
  ["same", "nearly equals"],
  ["share", "bears at least a share of"],
  ["alike", "has no piece that differs in how it gave way"],
];
const LOOKS: Readonly<Record<string, string>> = {
  "borne out": "text-spruce",
  contradicted: "text-alarm",
};
const START: Said = { treatments: [], says: "stronger", against: "", share: 0.5, note: "" };

export function Conclusions({ batch, view }: { batch: number; view: View }) {
  const back = useWrite((id: number) => takeBack(batch, id), batch);
  return (
    <details open={view.conclusions.length > 0 || undefined}>
      <summary className="cursor-pointer text-lg font-bold">What you conclude</summary>
      <UndoBar batch={batch} stage="compare" />
      <ul className="mt-2 space-y-2">
        {view.conclusions.map((c) => (
          <li key={c.id} className="border-l-2 border-rule pl-3">
            <p>
              <span className="font-semibold">{c.text}</span>{" "}
              <strong className={LOOKS[c.state] ?? "text-notice"}>{c.state}</strong>
              <span className="text-sm">: {c.why}.</span>{" "}
              <Copy text={`${c.text} (${c.state}: ${c.why}) ${c.scope}`} what={c.text} />{" "}
              <Button
                look="quiet"
                className="py-0 text-sm no-print"
                disabled={back.isPending}
                onClick={() => back.mutate(Number(c.id.slice(1)))}
              >
                take back
              </Button>
            </p>
            <p className="text-sm text-faded">{[c.note, c.person, c.scope].filter(Boolean).join(" · ")}</p>
          </li>
        ))}
      </ul>
      <NewConclusion batch={batch} view={view} />
      <NewComment batch={batch} view={view} />
      <ProblemNote problem={back.error} />
    </details>
  );
}

function NewConclusion({ batch, view }: { batch: number; view: View }) {
  const [said, setSaid] = useState(START);
  const save = useWrite((body: Said) => conclude(batch, body), batch);
  const set = (part: Partial<Said>) => setSaid((now) => ({ ...now, ...part }));
  const choice = (label: string, value: string, onChange: (letter: string) => void) => (
    <select
      aria-label={label}
      className="written max-w-60"
      value={value}
      onChange={(e) => onChange(e.target.value)}
    >
      <option value="">which treatment?</option>
      {view.treatments.map((t) => (
        <option key={t.letter} value={t.letter}>
          {t.label}
        </option>
      ))}
    </select>
  );
  const others = said.treatments.slice(1);
  return (
    <p className="mt-3 leading-9 no-print">
      {choice("What the conclusion is about", said.treatments[0] ?? "", (x) =>
        set({ treatments: x ? [x, ...others] : others }),
      )}{" "}
      {said.treatments.length > 0 && (
        <>
          {others.length > 0 && <>and {others.map((x) => labelOf(view, x)).join(", ")} </>}
          <select
            aria-label="And another treatment"
            className="written w-24"
            value=""
            onChange={(e) => set({ treatments: [...said.treatments, e.target.value] })}
          >
            <option value="">and …</option>
            {view.treatments
              .filter((t) => !said.treatments.includes(t.letter))
              .map((t) => (
                <option key={t.letter} value={t.letter}>
                  {t.label}
                </option>
              ))}
          </select>{" "}
        </>
      )}
      <select
        aria-label="What it says"
        className="written"
        value={said.says}
        onChange={(e) => set({ says: e.target.value })}
      >
        {SAYS.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>{" "}
      {said.says === "share" && (
        <input
          aria-label="Share in percent"
          className="written w-16"
          inputMode="decimal"
          defaultValue="50"
          onBlur={(e) => set({ share: Number(e.target.value.replace(",", ".")) / 100 })}
        />
      )}{" "}
      {said.says !== "alike" && choice("Set against", said.against, (against) => set({ against }))}{" "}
      <input
        aria-label="In your own words"
        className="written w-64 max-w-full"
        placeholder="in your own words"
        value={said.note}
        onChange={(e) => set({ note: e.target.value })}
      />{" "}
      <Button
        className="leading-6"
        disabled={save.isPending || !said.treatments.length}
        onClick={() => save.mutate(said, { onSuccess: () => setSaid(START) })}
      >
        Hold it against the figures
      </Button>
      <ProblemNote problem={save.error} />
    </p>
  );
}

const labelOf = (view: View, letter: string) =>
  view.treatments.find((t) => t.letter === letter)?.label ?? letter;

/** What limits a conclusion stays; one can say what is to be known about it. */
function NewComment({ batch, view }: { batch: number; view: View }) {
  const limits = [...(view.answers[0]?.caveats ?? []), ...view.caveats.map((c) => c.text)];
  const [about, setAbout] = useState("");
  const [text, setText] = useState("");
  const save = useWrite((body: Schemas["CommentIn"]) => comment(batch, body), batch);
  const gone = view.comments.filter((c) => !limits.includes(c.about));
  if (!limits.length && !gone.length) return null;
  return (
    <div className="mt-2">
      {limits.length > 0 && (
        <p className="leading-9 no-print">
          About{" "}
          <select
            aria-label="Sentence to comment on"
            className="written max-w-full"
            value={about}
            onChange={(e) => setAbout(e.target.value)}
          >
            <option value="">a weak point …</option>
            {limits.map((x) => (
              <option key={x}>{x}</option>
            ))}
          </select>{" "}
          <input
            aria-label="Your comment"
            className="written w-64 max-w-full"
            placeholder="what is to be known about it"
            value={text}
            onChange={(e) => setText(e.target.value)}
          />{" "}
          <Button
            className="leading-6"
            disabled={save.isPending || !about || !text.trim()}
            onClick={() => save.mutate({ about, text }, { onSuccess: () => setText("") })}
          >
            Comment
          </Button>
        </p>
      )}
      {gone.map((c) => (
        <p key={c.at + c.text} className="text-sm text-faded">
          Of what stood there on {new Date(c.at).toLocaleDateString()} (<q>{c.about}</q>): {c.text}
          {c.person && `, ${c.person}`}
        </p>
      ))}
      <ProblemNote problem={save.error} />
    </div>
  );
}
