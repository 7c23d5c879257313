/** Compare: the verdict, the picture behind it, and every number behind the picture. */
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { useCompare } from "../../api/queries";
import { ProblemNote, Waiting } from "../../parts/controls";
import { StrengthPlot } from "../../parts/StrengthPlot";
import { grouped } from "../../parts/units";
import { Confounders } from "./Confounders";
import { BoardFilter, FlagFilter } from "./Filters";
import { GlueCosts } from "./GlueCosts";
import { OwnResults } from "./OwnResults";
import { Paces } from "./Paces";
import { Pairs, Table } from "./Table";
import { WithinBlocks } from "./WithinBlocks";

type View = Schemas["CompareView"];

export default function CompareStage({ batch }: { batch: number }) {
  const [figure, setFigure] = useState("strength");
  const [fallen, setFallen] = useState<boolean | null>(null);
  const [every, setEvery] = useState(false);
  const [without, setWithout] = useState<string[]>([]);
  const [withoutBoards, setWithoutBoards] = useState<string[]>([]);
  const [unit, setUnit] = useState("");
  const [strength, setStrength] = useState("");
  const { data, error } = useCompare(batch, {
    figure,
    fallen,
    every,
    without,
    boards: withoutBoards,
    unit,
    strength,
  });
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the comparison" />;
  const anyFallen = data.treatments.some((t) => t.fell_apart > 0);
  return (
    <div className="space-y-6">
      <Headline view={data} />
      <div className="flex flex-wrap items-center gap-x-6 gap-y-2 no-print">
        <fieldset className="flex gap-4">
          <legend className="sr-only">Figure</legend>
          {[
            ["strength", "Strength"],
            ["load", "Load"],
          ].map(([key, name]) => (
            <label key={key} className="flex items-center gap-1.5">
              <input
                type="radio"
                name="figure"
                className="size-4"
                checked={figure === key}
                onChange={() => setFigure(key!)}
              />
              {name}
            </label>
          ))}
        </fieldset>
        {data.counted.choices.length > 0 && (
          <fieldset className="flex flex-wrap gap-x-4">
            <legend className="sr-only">What counts as one</legend>
            <span className="text-faded">What counts as one:</span>
            {data.counted.choices.map(([key, name]) => (
              <label key={key} className="flex items-center gap-1.5">
                <input
                  type="radio"
                  name="unit"
                  className="size-4"
                  checked={(unit || data.counted.unit) === key}
                  onChange={() => setUnit(key)}
                />
                {name}
              </label>
            ))}
          </fieldset>
        )}
        {Object.keys(data.strengths).length > 0 && (
          <label>
            The strength is{" "}
            <select
              aria-label="What is taken for the strength"
              className="written max-w-full"
              value={strength || data.strength}
              onChange={(e) => setStrength(e.target.value)}
            >
              {Object.entries(data.strengths).map(([key, words]) => (
                <option key={key} value={key}>
                  {words}
                </option>
              ))}
            </select>
            {data.strength !== data.planned_strength && (
              <strong role="status" className="ml-2 text-notice">
                The plan takes {data.strengths[data.planned_strength]}.
              </strong>
            )}
          </label>
        )}
        {anyFallen && (
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="size-4"
              checked={fallen ?? data.fallen_as_zero}
              onChange={(e) => setFallen(e.target.checked)}
            />
            Pieces that fell apart count as 0
          </label>
        )}
        <a
          className="ml-auto text-spruce underline underline-offset-4"
          href={`/api/batches/${batch}/specimens.csv`}
          download
        >
          Take the data away (CSV)
        </a>
      </div>
      <FlagFilter view={data} without={without} onChange={setWithout} />
      <BoardFilter view={data} without={withoutBoards} onChange={setWithoutBoards} />
      {!data.loadless && <StrengthPlot view={data} />}
      <Grounds view={data} />
      <WithinBlocks view={data} />
      <OwnResults view={data} />
      <Paces view={data} />
      <Confounders batch={batch} view={data} />
      <Table view={data} />
      <Pairs view={data} onEvery={() => setEvery(true)} />
      <GlueCosts view={data} />
      <p className="text-sm text-faded">
        Shop tests compare; they are not design values. For anything that carries people or a building, follow
        local codes and a licensed engineer.
      </p>
    </div>
  );
}

const GROUPS: readonly (readonly [string, string])[] = [
  ["difference", "What differs"],
  ["efficiency", "Against solid wood"],
  ["failure", "Where it gave way"],
  ["limitation", "Weak points of this test"],
  ["guess", "Your guess"],
  ["advice", "What next"],
];

function Headline({ view }: { view: View }) {
  const headline = view.findings.find((f) => f.family === "headline");
  return (
    <section aria-label="Verdict">
      {view.question && <p className="text-faded">{view.question}</p>}
      {headline && (
        <h2 className="max-w-4xl text-2xl leading-snug font-bold" data-testid="headline">
          {headline.text}
        </h2>
      )}
      {view.guess && <p className="mt-1 text-sm text-faded">The guess was: {view.guess}</p>}
    </section>
  );
}

/** Families that have no heading of their own yet stand under their name. */
const others = (view: View): [string, string][] => {
  const named = ["headline", ...GROUPS.map(([family]) => family)];
  const found = new Set(view.findings.map((f) => f.family).filter((family) => !named.includes(family)));
  return [...found].map((family) => [family, family.charAt(0).toUpperCase() + family.slice(1)]);
};

/** The sentences behind the headline, each with its numbers a click away. */
function Grounds({ view }: { view: View }) {
  return (
    <section aria-label="Grounds of the verdict">
      <div className="grid gap-x-10 gap-y-4 md:grid-cols-2">
        {[...GROUPS, ...others(view)].map(([family, title]) => {
          const own = view.findings.filter((f) => f.family === family);
          if (!own.length) return null;
          return (
            <div key={family}>
              <h3 className="head mb-1">{title}</h3>
              <ul className="space-y-1">
                {own.map((f) => (
                  <li key={f.text}>
                    <Finding finding={f} notable={family === "limitation"} />
                  </li>
                ))}
              </ul>
            </div>
          );
        })}
      </div>
    </section>
  );
}

function Finding({ finding, notable }: { finding: Schemas["Finding"]; notable: boolean }) {
  const numbers = Object.entries(finding.numbers ?? {}).filter(([, v]) => v !== null);
  if (!numbers.length) return <span className={notable ? "text-notice" : ""}>{finding.text}</span>;
  return (
    <details className={notable ? "text-notice" : ""}>
      <summary className="cursor-pointer marker:text-faded">{finding.text}</summary>
      <dl className="mt-1 mb-2 ml-4 grid w-fit grid-cols-[auto_auto] gap-x-4 text-sm text-faded">
        {numbers.map(([key, value]) => (
          <div key={key} className="contents">
            <dt>{key.replaceAll("_", " ")}</dt>
            <dd className="text-right text-ink">
              {typeof value === "number" ? number(value) : String(value)}
            </dd>
          </div>
        ))}
      </dl>
    </details>
  );
}

function number(value: number): string {
  if (Number.isInteger(value)) return grouped(value, 0);
  if (Math.abs(value) < 0.001) return value.toExponential(1);
  return grouped(value, Math.abs(value) < 1 ? 3 : 1);
}
