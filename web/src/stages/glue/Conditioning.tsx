/**
 * Joints on their way through a bath, frost or heat: what goes in and comes out when, one press for those
 * that go together.
 */
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { clock, counted } from "../../parts/units";

type Piece = Schemas["GluePiece"];

export function Conditioning({ batch, pieces }: { batch: number; pieces: readonly Piece[] }) {
  const save = useWrite((body: Schemas["ConditionIn"]) => writes.condition(batch, body), batch);
  const out = pieces.filter((p) => p.conditioning && p.unclamped_at);
  if (!out.length) return null;
  const groups = new Map<string, Piece[]>();
  for (const p of out) {
    const state = p.out_at ? "out" : p.in_at ? "in" : "waits";
    const since = (state === "waits" ? p.condition_at : p.in_at) ?? "";
    const key = [p.conditioning, state, since.slice(0, 16)].join("|");
    groups.set(key, [...(groups.get(key) ?? []), p]);
  }
  return (
    <section aria-label="Conditioning" className="space-y-1">
      <h2 className="text-lg font-bold">Conditioning</h2>
      <ul>
        {[...groups.entries()].map(([key, own]) => {
          const first = own[0]!;
          const codes = own.map((p) => p.code);
          return (
            <li key={key} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-2">
              <span className="font-semibold">
                {counted(own.length, "joint")}: {first.conditioning}
              </span>
              {first.out_at ? (
                <span className="text-faded">out since {clock(first.out_at)}</span>
              ) : first.in_at ? (
                <>
                  <span className="text-faded">in since {clock(first.in_at)}</span>
                  <Button
                    disabled={save.isPending}
                    onClick={() => save.mutate({ codes, way: "out", at: null })}
                  >
                    Out now
                  </Button>
                </>
              ) : (
                <>
                  <span className="text-faded">
                    to go in {first.condition_at ? clock(first.condition_at) : ""}
                  </span>
                  <Button
                    disabled={save.isPending}
                    onClick={() => save.mutate({ codes, way: "in", at: null })}
                  >
                    In now
                  </Button>
                </>
              )}
              <span className="w-full font-mono text-sm text-faded">{codes.join(" ")}</span>
            </li>
          );
        })}
      </ul>
      <ProblemNote problem={save.error} />
    </section>
  );
}
