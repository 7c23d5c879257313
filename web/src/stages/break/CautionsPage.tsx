/** All cautions of a batch on one page, to print and hang up. */
import { Link, useParams } from "react-router";
import { useCautions, useToday } from "../../api/queries";
import { Button, Waiting } from "../../parts/controls";

const STAGES = [
  ["cut", "At the saw and the plane"],
  ["glue", "Gluing and clamping"],
  ["break", "Breaking"],
] as const;

export default function CautionsPage() {
  const batch = Number(useParams().id);
  const { data: today } = useToday();
  const own = today?.batches.find((p) => p.batch.id === batch);
  if (!own) return <Waiting what="the cautions" />;
  return (
    <section aria-label="Cautions" className="space-y-4">
      <div className="flex flex-wrap items-baseline gap-x-6 gap-y-2">
        <h1 className="text-2xl font-bold wrap-anywhere">{own.batch.name}: cautions</h1>
        <span className="no-print flex flex-wrap items-baseline gap-x-4">
          <Button onClick={() => window.print()}>Print</Button>
          <Link className="text-spruce underline underline-offset-4" to={`/batch/${batch}`}>
            Back to the batch
          </Link>
        </span>
      </div>
      {STAGES.map(([stage, title]) => (
        <Of key={stage} batch={batch} stage={stage} title={title} />
      ))}
      <p>
        They are the usual ones of the trade, and replace neither the maker’s data sheet nor the rules of the
        place. Results compare joints of this shop; they are no design values: local codes and licensed
        practice decide what bears people or buildings.
      </p>
    </section>
  );
}

function Of({ batch, stage, title }: { batch: number; stage: "cut" | "glue" | "break"; title: string }) {
  const { data } = useCautions(batch, stage);
  if (!data?.length) return null;
  return (
    <section aria-label={title} className="break-inside-avoid">
      <h2 className="mb-1 text-xl font-bold">{title}</h2>
      <ul className="list-disc space-y-1 pl-5 text-lg">
        {data.map((c) => (
          <li key={c.key} className={c.high ? "font-semibold" : ""}>
            {c.text}
          </li>
        ))}
      </ul>
    </section>
  );
}
