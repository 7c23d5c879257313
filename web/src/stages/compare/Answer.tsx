/** The answer first: its sentence, its picture, what bears it, what weakens it, what to do next. */
import type { Schemas } from "../../api/client";
import { hasWord, Worded } from "../../parts/Word";
import { StrengthPlot } from "../../parts/StrengthPlot";
import { Against } from "./Against";
import { AxisPlot } from "./AxisPlot";
import { AnswerTable, MainAnswer } from "./MainAnswer";
import { FactorTable } from "./FactorTable";
import { Failures } from "./Failures";
import { hasKept, Kept } from "./Retention";
import { LastingPicture } from "./Lasting";
import { Lines } from "./Lines";
import type { Look } from "./linked";
import { Ranked } from "./Ranked";

type View = Schemas["CompareView"];

const SUPPORTS = 4;
const WEAKENS = 4;
const NEXT = 2;
/** How much a caveat weighs: it could overturn the answer, bears on parts of it, or is so in general. */
const OVERTURNS = 0;
const GENERAL = 2;

export const PICTURES: Readonly<Record<string, string>> = {
  plot: "Every piece",
  curve: "Along the axis",
  table: "As a table",
  lines: "As lines",
  ranked: "Ranked",
  kept: "What is kept",
  lasting: "How long it lasts",
  against: "Against something else",
  failures: "How it gave way",
};

/** The pictures that this comparison can be shown as, that of the question first. */
export function picturesOf(view: View): string[] {
  const crossed = view.factors.filter((f) => f.levels.length > 1).length > 1;
  const found: string[] = [];
  if (view.axes.length) found.push("curve");
  if (crossed) found.push("table", "lines");
  found.push("plot", "ranked");
  if (hasKept(view)) found.push("kept");
  if (view.lasting.length) found.push("lasting");
  if (view.quantities.length) found.push("against");
  if (view.treatments.some((t) => Object.keys(t.modes).length)) found.push("failures");
  const asked = view.answers[0]?.picture ?? "plot";
  // Of a crossing, all pieces in a row say less than its cells.
  const pieces = asked === "plot" || asked === "ranked";
  const first = crossed && pieces ? "table" : found.includes(asked) ? asked : "plot";
  return [first, ...found.filter((picture) => picture !== first)];
}

interface AnswerProps {
  view: View;
  /** Treatments of other studies, shown apart. */
  brought: readonly Schemas["Brought"][];
  look: Look;
  /** Open a piece in full. */
  onOpen: (code: string) => void;
}

export function Answer({ view, brought, look, onOpen }: AnswerProps) {
  const pictures = view.loadless ? ["failures"] : picturesOf(view);
  const picture = pictures.includes(look.get("picture")) ? look.get("picture") : pictures[0];
  return (
    <section aria-label="Verdict" className="space-y-3">
      <MainAnswer view={view} />
      {(view.guess || view.guesses.length > 0) && (
        <p className="text-sm text-faded">
          {view.guess && <>The guess was: {view.guess} </>}
          {view.guesses.join(" ")}
        </p>
      )}
      <div className="grid gap-6 lg:grid-cols-[minmax(0,1fr)_27rem]">
        <div className="min-w-0">
          {pictures.length > 1 && (
            <p className="mb-1 flex flex-wrap gap-x-4 text-sm no-print" role="group" aria-label="Picture">
              {pictures.map((key) => (
                <label key={key} className="flex min-h-6 items-center gap-1.5">
                  <input
                    type="radio"
                    name="picture"
                    className="size-4"
                    checked={picture === key}
                    onChange={() => look.set("picture", key === pictures[0] ? "" : key)}
                  />
                  {PICTURES[key]}
                </label>
              ))}
            </p>
          )}
          {picture === "curve" && <AxisPlot view={view} onOpen={onOpen} look={look} />}
          {picture === "table" && <FactorTable view={view} look={look} />}
          {picture === "lines" && <Lines view={view} look={look} />}
          {picture === "against" && <Against view={view} look={look} />}
          {picture === "ranked" && <Ranked view={view} />}
          {picture === "kept" && <Kept view={view} />}
          {picture === "lasting" && <LastingPicture view={view} onOpen={onOpen} />}
          {picture === "failures" && <Failures view={view} onOpen={onOpen} />}
          {picture === "plot" && <EveryPiece view={view} brought={brought} look={look} onOpen={onOpen} />}
        </div>
        <div className="min-w-0 space-y-4">
          {view.answers[0] && <AnswerTable answer={view.answers[0]} number={1} />}
          <Grounds view={view} />
        </div>
      </div>
    </section>
  );
}

/** Every piece on the shared axis, grouped and ordered as one likes. */
function EveryPiece({ view, brought, look, onOpen }: AnswerProps) {
  const factors = view.factors.filter((f) => f.levels.length > 1);
  const tick = (key: string, words: string) => (
    <label className="inline-flex min-h-6 items-center gap-1.5">
      <input
        type="checkbox"
        className="size-4"
        checked={look.get(key) === "yes"}
        onChange={(e) => look.set(key, e.target.checked ? "yes" : "")}
      />
      {words}
    </label>
  );
  return (
    <>
      <StrengthPlot
        view={view}
        brought={brought}
        onOpen={onOpen}
        boxes={look.get("boxes") === "yes"}
        by={look.get("grouped")}
        bySize={look.get("ordered") === "yes"}
      />
      <p className="mt-1 flex flex-wrap gap-x-5 text-sm no-print">
        {factors.length > 1 && (
          <label>
            together by{" "}
            <select
              className="written"
              aria-label="Together by"
              value={look.get("grouped")}
              onChange={(e) => look.set("grouped", e.target.value)}
            >
              <option value="">nothing</option>
              {factors.map((f) => (
                <option key={f.key} value={f.key}>
                  {f.name}
                </option>
              ))}
            </select>
          </label>
        )}
        {tick("ordered", "the highest first")}
        {tick("boxes", "with boxes")}
      </p>
    </>
  );
}

function Grounds({ view }: { view: View }) {
  const main = view.answers[0];
  const of = (fits: (weight: number) => boolean) =>
    view.caveats.filter((c) => fits(c.weight)).map((c) => c.text);
  return (
    <div className="space-y-4" aria-label="Grounds of the answer" role="region">
      <Reasons title="Evidence" texts={main?.evidence ?? []} most={SUPPORTS} />
      <Reasons
        title="What could overturn it"
        texts={[...(main?.caveats ?? []), ...of((w) => w === OVERTURNS)]}
        most={Infinity}
        notable
        comments={view.comments}
      />
      <Reasons
        title="Caveats"
        texts={of((w) => w > OVERTURNS && w < GENERAL)}
        most={WEAKENS}
        notable
        comments={view.comments}
        folded={of((w) => w === GENERAL)}
      />
      <Reasons title="Next steps" texts={main?.next ?? []} most={NEXT} />
    </div>
  );
}

interface ReasonsProps {
  title: string;
  texts: readonly string[];
  most: number;
  notable?: boolean;
  /** What was said of these sentences. */
  comments?: readonly Schemas["CommentView"][];
  /** More of them that never stand open at once. */
  folded?: readonly string[];
}

function Reasons({ title, texts, most, notable, comments = [], folded = [] }: ReasonsProps) {
  if (!texts.length && !folded.length) return null;
  const rest = [...texts.slice(most), ...folded];
  // Opened once in a list, not in each of its lines.
  const explained = texts.find(hasWord);
  const item = (text: string) => (
    <li key={text} className={notable ? "text-notice" : ""}>
      {text === explained ? <Worded text={text} /> : text}
      {comments
        .filter((c) => c.about === text)
        .map((c) => (
          <span key={c.at + c.text} className="block border-l-2 border-rule pl-2 text-ink">
            {c.text}
            {c.person && `, ${c.person}`}
          </span>
        ))}
    </li>
  );
  return (
    <div>
      <h3 className="head mb-1">{title}</h3>
      <ul className="space-y-1 text-sm">{texts.slice(0, most).map(item)}</ul>
      {rest.length > 0 && (
        <details className="text-sm" data-paper="open">
          <summary className="cursor-pointer text-faded print:hidden">{rest.length} more</summary>
          <ul className="mt-1 space-y-1">{rest.map(item)}</ul>
        </details>
      )}
    </div>
  );
}
