/**
 * Two halves before they meet: scan or type both labels; a pair that does not belong together is told,
 * and can be recorded.
 */
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { Button, Notice, ProblemNote } from "../../parts/controls";

export function PairCheck({ batch }: { batch: number }) {
  const [first, setFirst] = useState("");
  const [second, setSecond] = useState("");
  const begin = useRef<HTMLInputElement>(null);
  const check = useWrite((body: Schemas["PairIn"]) => writes.pair(batch, body), batch);
  const swap = useWrite((body: Schemas["PairIn"]) => writes.swap(batch, body), batch);
  const again = () => {
    setFirst("");
    setSecond("");
    begin.current?.focus();
  };
  const found = check.data;
  return (
    <details className="no-print">
      <summary className="cursor-pointer text-faded">Check that two halves belong together</summary>
      <form
        className="mt-1 flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          check.mutate({ first, second }, { onSuccess: (p) => p.right && again() });
        }}
      >
        <input
          ref={begin}
          aria-label="First half"
          className="written w-32 font-mono"
          placeholder="K7M2-a"
          autoComplete="off"
          value={first}
          onChange={(e) => setFirst(e.target.value)}
        />{" "}
        faces
        <input
          aria-label="Second half"
          className="written w-32 font-mono"
          placeholder="K7M2-b"
          autoComplete="off"
          value={second}
          onChange={(e) => setSecond(e.target.value)}
        />
        <Button type="submit" disabled={check.isPending}>
          Check
        </Button>
        {found?.right && <span role="status">{found.text}</span>}
      </form>
      {found && !found.right && (
        <div role="status" className="mt-2 space-y-2">
          <Notice>{found.text}</Notice>
          {found.text.includes("two pieces") && (
            <Button
              disabled={swap.isPending}
              onClick={() =>
                swap.mutate(
                  { first, second },
                  {
                    onSuccess: () => {
                      again();
                      check.reset();
                    },
                  },
                )
              }
            >
              They are glued: write the swap down
            </Button>
          )}
        </div>
      )}
      <ProblemNote problem={check.error ?? swap.error} />
    </details>
  );
}
