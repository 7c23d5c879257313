/** Compare: the answer first, then every sentence and every number behind it. */
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { useCompare } from "../../api/queries";
import { ProblemNote, Waiting } from "../../parts/controls";
import { grouped } from "../../parts/units";
import { Answer } from "./Answer";
import { BesideAnother, useBroughtIn } from "./BesideAnother";
import { Bonds } from "./Bonds";
import { ComparedTables, SchoolsTable } from "./Compared";
import { Conclusions } from "./Conclusions";
import { Confounders } from "./Confounders";
import { GlueCosts } from "./GlueCosts";
import { GoodEnough } from "./GoodEnough";
import { useLook } from "./linked";
import { OwnResults } from "./OwnResults";
import { Paces } from "./Paces";
import { Pieces, WithAndWithout } from "./Pieces";
import { PieceStory } from "./PieceStory";
import { Ranks } from "./Ranks";
import { Switches } from "./Switches";
import { Pairs, Table } from "./Table";
import { Weighed } from "./Weighed";
import { WithinBlocks } from "./WithinBlocks";

type View = Schemas["CompareView"];

export default function CompareStage({ batch }: { batch: number }) {
  const look = useLook();
  const [every, setEvery] = useState(false);
  const open = (code: string) => look.set("piece", code);
  const fallen = look.get("fallen");
  const { data, error } = useCompare(batch, {
    figure: look.get("figure") || "strength",
    fallen: fallen ? fallen === "zero" : null,
    every,
    without: look.all("without"),
    boards: look.all("boards"),
    unit: look.get("unit"),
    strength: look.get("strength"),
    target: look.get("target"),
    school: look.get("school"),
    only: look.all("only"),
    reach: look.get("reach"),
  });
  const brought = useBroughtIn(batch, look)?.groups;
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the comparison" />;
  return (
    <div className="space-y-6">
      <Answer view={data} brought={brought ?? []} look={look} onOpen={open} />
      <WithAndWithout view={data} onOpen={open} />
      <Switches view={data} look={look} />
      <details>
        <summary className="cursor-pointer text-lg font-bold">Every sentence, with its numbers</summary>
        <Sentences view={data} />
      </details>
      <Conclusions batch={batch} view={data} />
      <ComparedTables view={data} look={look} />
      <BesideAnother batch={batch} view={data} look={look} />
      <Table view={data} />
      <GoodEnough view={data} />
      <Pieces view={data} onOpen={open} />
      <SchoolsTable view={data} />
      <Ranks view={data} look={look} />
      <Bonds batch={batch} view={data} />
      <WithinBlocks view={data} />
      <OwnResults view={data} />
      <Paces view={data} />
      <Confounders batch={batch} view={data} />
      <Pairs view={data} onEvery={() => setEvery(true)} />
      <GlueCosts view={data} />
      <Weighed view={data} look={look} />
      <PieceStory batch={batch} code={look.get("piece")} onClose={() => open("")} />
      <p className="flex flex-wrap justify-between gap-x-6 text-sm text-faded">
        <span>
          Shop tests compare; they are not design values. For anything that carries people or a building,
          follow local codes and a licensed engineer.
        </span>
        <a
          className="text-spruce underline underline-offset-4 no-print"
          href={`/api/batches/${batch}/specimens.csv`}
          download
        >
          Take the data away (CSV)
        </a>
      </p>
    </div>
  );
}

const GROUPS: readonly (readonly [string, string])[] = [
  ["difference", "What differs"],
  ["efficiency", "Against solid wood"],
  ["failure", "Where it gave way"],
  ["pass", "Good enough"],
  ["limitation", "Weak points of this test"],
  ["guess", "Your guess"],
  ["advice", "Next steps"],
];

/** Families that have no heading of their own yet stand under their name. */
const others = (view: View): [string, string][] => {
  const named = ["headline", ...GROUPS.map(([family]) => family)];
  const found = new Set(view.findings.map((f) => f.family).filter((family) => !named.includes(family)));
  return [...found].map((family) => [family, family.charAt(0).toUpperCase() + family.slice(1)]);
};

/** The sentences behind the headline, each with its numbers a click away. */
function Sentences({ view }: { view: View }) {
  return (
    <section aria-label="Every sentence" className="mt-2">
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
    <details className={notable ? "text-notice" : ""} data-paper="words">
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
