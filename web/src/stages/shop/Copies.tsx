/** Copies of the data: one a day by itself, more by hand; any can be put back, and what is there is kept. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { putBack, takeCopy, useCopies } from "../../api/copies";
import { useWrite } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { clock, counted } from "../../parts/units";

const SHOWN = 5;

/** Bytes as people say them. */
function space(bytes: number): string {
  if (bytes < 1e6) return `${Math.max(1, Math.round(bytes / 1e3))} kB`;
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

export function Copies() {
  const { data } = useCopies();
  const client = useQueryClient();
  const [asked, setAsked] = useState("");
  const [all, setAll] = useState(false);
  const copy = useWrite(takeCopy);
  const back = useWrite(putBack);
  if (!data) return null;
  const shown = all ? data.copies : data.copies.slice(0, SHOWN);
  return (
    <section aria-labelledby="copies" className="mt-8">
      <h2 id="copies" className="mb-2 text-xl font-bold">
        Copies
      </h2>
      <p>
        A copy is made on every day that the program runs: the last fourteen stay, and one of each month.{" "}
        <Button disabled={copy.isPending} onClick={() => copy.mutate()}>
          Take one now
        </Button>
      </p>
      <p className="text-sm text-faded wrap-anywhere">
        The data takes {space(data.data)}, {counted(data.copies.length, "copy", "copies")} {space(data.taken)}
        ; {space(data.free)} are free. They lie in {data.folder}: keep one elsewhere, too.
      </p>
      <ul className="mt-2">
        {shown.map((c) => (
          <li key={c.name} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-1.5">
            <span className="font-semibold">{clock(c.at)}</span>
            <span className="text-faded">
              {c.why}, {space(c.size)}
            </span>
            <span className="ml-auto flex gap-x-3">
              <a className="text-spruce underline underline-offset-4" href={`/api/copies/${c.name}`} download>
                save elsewhere
              </a>
              <Button look="quiet" className="py-0" onClick={() => setAsked(c.name)}>
                put back
              </Button>
            </span>
            {asked === c.name && (
              <p className="w-full border-l-4 border-notice bg-notice-pale px-3 py-1.5 text-notice">
                Everything that came after {clock(c.at)} goes out of sight; it is copied before, and can be
                put back as well.{" "}
                <Button
                  disabled={back.isPending}
                  onClick={() =>
                    back.mutate(c.name, {
                      onSuccess: () => {
                        setAsked("");
                        // What other pages had fetched is of the data before.
                        client.removeQueries({ type: "inactive" });
                        void client.invalidateQueries();
                      },
                    })
                  }
                >
                  {back.isPending ? "Putting it back …" : "Put it back"}
                </Button>{" "}
                <Button look="quiet" onClick={() => setAsked("")}>
                  leave all as it is
                </Button>
              </p>
            )}
          </li>
        ))}
      </ul>
      {data.copies.length > SHOWN && (
        <Button look="quiet" onClick={() => setAll(!all)}>
          {all ? "fewer" : `${data.copies.length - SHOWN} older ones`}
        </Button>
      )}
      {back.isSuccess && <p role="status">It is back.</p>}
      <ProblemNote problem={copy.error ?? back.error} />
    </section>
  );
}
