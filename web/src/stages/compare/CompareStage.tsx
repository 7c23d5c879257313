/** Compare: the answer first, then every number behind it, in a few parts that are listed above them. */
import { useState } from "react";
import { Problem } from "../../api/client";
import { useCompare } from "../../api/queries";
import { ProblemNote, Waiting } from "../../parts/controls";
import { Answer } from "./Answer";
import { BesideAnother, useBroughtIn } from "./BesideAnother";
import { Bonds } from "./Bonds";
import { ComparedTables, SchoolsTable } from "./Compared";
import { Conclusions } from "./Conclusions";
import { Confounders, isAnythingMade } from "./Confounders";
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
      <Contents without={isAnythingMade(data) ? [] : ["made"]} />
      <Part of="treatments">
        <Table view={data} />
        <GoodEnough view={data} />
        <Pieces view={data} onOpen={open} />
        <SchoolsTable view={data} />
        <Ranks view={data} look={look} />
        <Bonds batch={batch} view={data} />
        <OwnResults view={data} />
        <Pairs view={data} onEvery={() => setEvery(true)} />
      </Part>
      <Part of="comparisons">
        <ComparedTables view={data} look={look} />
        <WithinBlocks view={data} />
        <BesideAnother batch={batch} view={data} look={look} />
      </Part>
      {isAnythingMade(data) && (
        <Part of="made">
          <Confounders batch={batch} view={data} />
          <Paces view={data} />
        </Part>
      )}
      <Part of="cost">
        <GlueCosts view={data} />
        <Weighed view={data} look={look} />
      </Part>
      <Part of="conclude">
        <Conclusions batch={batch} view={data} />
      </Part>
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

const PARTS: Readonly<Record<string, string>> = {
  treatments: "Treatments and pieces",
  comparisons: "Comparisons",
  made: "How it was made and tested",
  cost: "What it costs",
  conclude: "Conclusions",
};

/** What else is on the page. */
function Contents({ without }: { without: readonly string[] }) {
  return (
    <nav aria-label="On this page" className="border-y border-rule py-2 text-sm no-print">
      <ul className="flex flex-wrap gap-x-6 gap-y-1">
        {Object.entries(PARTS)
          .filter(([key]) => !without.includes(key))
          .map(([key, title]) => (
            <li key={key}>
              <a className="text-spruce underline underline-offset-4" href={`#${key}`}>
                {title}
              </a>
            </li>
          ))}
      </ul>
    </nav>
  );
}

function Part({ of, children }: { of: string; children: React.ReactNode }) {
  return (
    <section id={of} aria-labelledby={`${of}-title`} className="scroll-mt-4">
      <h2 id={`${of}-title`} className="mb-2 border-b border-strong-rule text-xl font-bold">
        {PARTS[of]}
      </h2>
      <div className="space-y-3 [&>details>summary]:text-base">{children}</div>
    </section>
  );
}
