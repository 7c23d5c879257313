/** Home: what is due in order of time, and every batch with how far it is. */
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useToday, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { ShopUndoBar } from "../../parts/UndoBar";
import { FirstDay } from "./FirstDay";
import { nextStage, Notches } from "../../parts/Straightedge";
import { clock, counted, span } from "../../parts/units";
import { useNow } from "../../parts/useNow";
import { useSound } from "../../parts/useSound";
import { allowReminders, remindersAllowed } from "../../parts/useReminders";

export function Today() {
  const { data, error, isPending } = useToday();
  const now = useNow();
  if (isPending) return <Waiting what="today" />;
  if (!data) return <p role="alert">{error?.message}</p>;
  const ahead = (d: Schemas["DueView"]) => (new Date(d.at).getTime() - now) / 1000;
  const later = data.due.filter((d) => ahead(d) >= SOON_S);
  return (
    <div className="grid gap-8 lg:grid-cols-[minmax(0,5fr)_minmax(0,4fr)]">
      <section aria-labelledby="due" className="min-w-0">
        <h1 id="due" className="mb-2 text-2xl font-bold">
          {new Date(data.now).toLocaleDateString(undefined, {
            weekday: "long",
            day: "numeric",
            month: "long",
          })}
        </h1>
        <Remind />
        <Ring />
        {data.batches.length === 0 && <FirstDay />}
        {data.due.length + data.interrupted.length === 0 && data.batches.length > 0 && (
          <p className="sheet px-4 py-6 text-faded">Nothing is due.</p>
        )}
        <Due items={[...data.interrupted, ...data.due.filter((d) => ahead(d) < SOON_S)]} ahead={ahead} />
        {later.length > 0 && (
          <details className="mt-4">
            <summary className="cursor-pointer text-faded">Later: {counted(later.length, "date")}</summary>
            <Due items={later} ahead={ahead} />
          </details>
        )}
      </section>
      <Batches batches={data.batches} />
    </div>
  );
}

/** Whether times ring on this device. */
function Ring() {
  const [loud, setLoud] = useSound();
  return (
    <label className="mb-2 ml-4 inline-flex items-center gap-1.5 text-sm">
      <input
        type="checkbox"
        className="size-4"
        checked={loud === true}
        onChange={(e) => setLoud(e.target.checked)}
      />
      ring when something is due
    </label>
  );
}

function Remind() {
  const [allowed, setAllowed] = useState(remindersAllowed);
  if (allowed || !("Notification" in window) || Notification.permission === "denied") return null;
  return (
    <Button look="quiet" className="mb-2 px-0 text-sm" onClick={() => void allowReminders().then(setAllowed)}>
      Remind me five minutes before
    </Button>
  );
}

/** A fortnight: what is further away does not belong to today. */
const SOON_S = 14 * 86_400;

function Due({
  items,
  ahead,
}: {
  items: readonly Schemas["DueView"][];
  ahead: (d: Schemas["DueView"]) => number;
}) {
  return (
    <ul className="border-b border-rule">
      {items.map((d) => (
        <li key={`${d.batch_id}${d.stage}${d.what}${d.at}`}>
          <Link
            to={`/batch/${d.batch_id}/${d.stage}`}
            className={`grid grid-cols-[7rem_1fr] gap-x-4 border-t border-rule px-1 py-3
              hover:bg-sheet sm:grid-cols-[10.5rem_1fr]`}
          >
            <Countdown seconds={ahead(d)} at={d.at} />
            <span>
              <span className="block font-semibold">{d.what}</span>
              <span className="block text-faded wrap-anywhere">
                {counted(d.pieces, "piece")} of {d.batch}
              </span>
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}

function Countdown({ seconds, at }: { seconds: number; at: string }) {
  const late = seconds < 0;
  return (
    <span className={late ? "text-notice" : "text-ink"}>
      <span className="block text-lg font-semibold">{late ? span(seconds) : `in ${span(seconds)}`}</span>
      <span className="block text-sm">{late ? "overdue" : clock(at)}</span>
    </span>
  );
}

function Batches({ batches }: { batches: readonly Schemas["Progress"][] }) {
  return (
    <section aria-labelledby="batches" className="min-w-0">
      <h2 id="batches" className="mb-2 text-2xl font-bold">
        Batches
      </h2>
      <NewBatch />
      <ShopUndoBar of="imports" />
      <ul>
        {batches.map((p) => (
          <li key={p.batch.id}>
            <Link
              to={`/batch/${p.batch.id}/${nextStage(p)}`}
              className="block border-t border-rule px-1 py-3 last:border-b hover:bg-sheet"
            >
              <span className="block font-semibold wrap-anywhere">{p.batch.name}</span>
              <span className="mb-1.5 block truncate text-sm text-faded">
                {p.question || "No question yet"}
              </span>
              <span className="flex items-center gap-3 text-sm text-faded">
                <Notches progress={p} />
                <span className="whitespace-nowrap">
                  {p.locked ? `${p.observed} of ${p.pieces} broken` : "draft"}
                </span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}

function NewBatch() {
  const go = useNavigate();
  const [name, setName] = useState("");
  const create = useWrite(writes.createBatch);
  const bring = useWrite(writes.importCsv);
  const plan = useWrite(writes.planFile);
  return (
    <div className="mb-3">
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          create.mutate(name, { onSuccess: (made) => void go(`/batch/${made.id}/plan`) });
        }}
      >
        <input
          aria-label="Name of a new batch"
          className="written min-w-40 flex-1"
          placeholder="Name of a new batch"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" look="main" disabled={create.isPending}>
          Begin
        </Button>
        <label
          className={`cursor-pointer px-1 text-spruce underline underline-offset-4
            focus-within:outline-3`}
        >
          Read a file
          <input
            type="file"
            accept=".csv,text/csv,.json,application/json"
            className="sr-only"
            onChange={(e) => {
              const file = e.target.files?.[0];
              e.target.value = "";
              if (file)
                void file
                  .text()
                  .then((text) =>
                    file.name.endsWith(".json")
                      ? plan.mutate(text, { onSuccess: (r) => void go(`/batch/${r.id}/plan`) })
                      : bring.mutate(text, { onSuccess: (r) => void go(`/batch/${r.batch_id}`) }),
                  );
            }}
          />
        </label>
      </form>
      <Link to="/table" className="inline-block px-1 pt-1 text-sm text-spruce underline underline-offset-4">
        Take in a table of another shop
      </Link>
      <ProblemNote problem={create.error ?? bring.error ?? plan.error} />
    </div>
  );
}
