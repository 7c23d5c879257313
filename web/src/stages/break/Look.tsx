/** The faces of the stand-in. */
import { useWrite, writes } from "../../api/queries";
import { Button } from "../../parts/controls";

/** Beside the stand-in only: what one would see on the broken faces. */
export function Look({ batch, onSee }: { batch: number; onSee: (mode: string, wood: number) => void }) {
  const look = useWrite(() => writes.hand(batch, { do: "look", code: "" }), batch);
  const seen = look.data;
  return (
    <p className="text-sm text-faded">
      {seen?.failure_mode ? (
        <>The simulated faces were judged for you; change it if you like.</>
      ) : (
        <Button
          disabled={look.isPending}
          onClick={() =>
            look.mutate(undefined, {
              onSuccess: (s) => {
                if (s.failure_mode) onSee(s.failure_mode, s.wood_failure_pct ?? 0);
              },
            })
          }
        >
          Look at the simulated faces
        </Button>
      )}
    </p>
  );
}
