/** What is looked at before the first pull of a session: a tick each, or all at once. */
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { tick } from "../../api/session";
import { Button, ProblemNote } from "../../parts/controls";

export function Checklist({ batch, points }: { batch: number; points: readonly Schemas["Point"][] }) {
  const save = useWrite((keys: string[]) => tick(batch, keys), batch);
  const open = points.filter((p) => !p.ticked);
  if (!points.length) return null;
  if (!open.length)
    return <p className="text-sm text-faded no-print">Looked at for this session: {points.length} points.</p>;
  return (
    <fieldset className="sheet flex flex-wrap items-center gap-x-5 gap-y-2 px-4 py-2 no-print">
      <legend className="head">Before the first pull</legend>
      {points.map((p) => (
        <label key={p.key} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="size-5"
            checked={p.ticked}
            disabled={p.ticked || save.isPending}
            onChange={() => save.mutate([p.key])}
          />
          {p.text}
        </label>
      ))}
      <Button disabled={save.isPending} onClick={() => save.mutate(open.map((p) => p.key))}>
        All of this is so
      </Button>
      <span className="text-sm text-faded">What is left open is flagged on the readings.</span>
      <ProblemNote problem={save.error} />
    </fieldset>
  );
}
