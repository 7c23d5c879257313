/**
 * The cautions of a stage, by what the batch brings to the bench. Those of high risk are confirmed once a
 * session; afterwards they stay in sight, small.
 */
import { Link } from "react-router";
import { useCautions, useWrite, writes, type Stage } from "../api/queries";
import { Button, ProblemNote } from "./controls";

interface Props {
  batch: number;
  stage: Stage;
  /** The one glue family that is at hand; the others of the batch are left out. */
  glue?: string;
}

export function StageCautions({ batch, stage, glue }: Props) {
  const { data: all } = useCautions(batch, stage);
  const data = all?.filter((c) => !glue || !c.key.startsWith("glue ") || c.key === `glue ${glue}`);
  const confirm = useWrite(() => writes.cautions(batch, stage), batch);
  // Its place is kept while it is fetched, so that nothing below moves.
  if (!data) return <div className="min-h-10" />;
  if (!data.length) return null;
  const open = data.filter((c) => c.high && !c.confirmed);
  const rest = data.filter((c) => !open.includes(c));
  return (
    <aside
      aria-label="Cautions"
      className="border-y border-notice/40 bg-notice-pale px-3 py-2 text-sm text-notice"
    >
      {open.length > 0 && (
        <div className="mb-2 flex flex-wrap items-center gap-x-6 gap-y-2 text-base font-semibold">
          <ul className="min-w-0 flex-1 basis-80">
            {open.map((c) => (
              <li key={c.key}>{c.text}</li>
            ))}
          </ul>
          <Button className="no-print" disabled={confirm.isPending} onClick={() => confirm.mutate(undefined)}>
            Read, and kept to today
          </Button>
        </div>
      )}
      <ul className="flex flex-wrap gap-x-6 gap-y-1">
        {rest.map((c) => (
          <li key={c.key}>{c.text}</li>
        ))}
        <li className="no-print ml-auto">
          <Link className="underline underline-offset-4" to={`/batch/${batch}/cautions`}>
            to print, on one page
          </Link>
        </li>
      </ul>
      <ProblemNote problem={confirm.error} />
    </aside>
  );
}
