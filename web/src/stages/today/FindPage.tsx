/** What is on record about some words: pieces by batch, then what stands in the shop. */
import { Link, useSearchParams } from "react-router";
import { Problem, type Schemas } from "../../api/client";
import { useFound } from "../../api/queries";
import { ProblemNote, Waiting } from "../../parts/controls";
import { counted } from "../../parts/units";

type Hit = Schemas["Hit"];

export default function FindPage() {
  const [params] = useSearchParams();
  const text = params.get("text") ?? "";
  const { data, error, isPending } = useFound(text);
  const problem = error instanceof Problem ? error : error ? new Problem(0, String(error)) : null;
  const batches = [...new Set(data?.hits.map((h) => h.batch_id) ?? [])];
  return (
    <>
      <h1 className="mb-2 text-2xl font-bold wrap-anywhere">On record about “{text}”</h1>
      {text.trim().length < 2 && <p>Type two letters or more: a code, a mark, a board, a word of a note.</p>}
      <ProblemNote problem={problem} />
      {isPending && text.trim().length > 1 && <Waiting what="what is on record" />}
      {data?.hits.length === 0 && (
        <p>
          Nothing on record has these words. Codes, marks, treatments, notes, faults, bottles, boards and
          reasons are looked through, in all batches.
        </p>
      )}
      {data &&
        batches.map((id) => <Group key={id} id={id} hits={data.hits.filter((h) => h.batch_id === id)} />)}
      {data?.more && <p className="text-faded">There is more: say it more exactly.</p>}
    </>
  );
}

function Group({ id, hits }: { id: number | null; hits: readonly Hit[] }) {
  const title = id === null ? "In the shop" : hits[0]!.batch;
  const pieces = new Set(hits.map((h) => h.code).filter(Boolean)).size;
  return (
    <section className="mt-4" aria-label={title}>
      <h2 className="text-lg font-bold wrap-anywhere">
        <Link className="hover:underline" to={id === null ? "/shop" : `/batch/${id}`}>
          {title}
        </Link>{" "}
        {pieces > 0 && <span className="text-sm font-normal text-faded">{counted(pieces, "piece")}</span>}
      </h2>
      <ul>
        {hits.map((h) => (
          <li key={`${h.code} ${h.what} ${h.text}`} className="border-t border-rule py-1">
            {h.code && (
              <Link
                className="mr-3 font-mono font-semibold text-spruce underline underline-offset-4"
                to={`/batch/${id}/cut?piece=${h.code}`}
              >
                {h.code}
              </Link>
            )}
            {h.what !== "code" && <span className="text-faded">{h.what}: </span>}
            {h.what !== "code" && <span className="wrap-anywhere">{h.text}</span>}
          </li>
        ))}
      </ul>
    </section>
  );
}
