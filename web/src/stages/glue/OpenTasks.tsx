/**
 * What joints in and out of clamps wait for, as clocks that are read across the shop; one tap when it is
 * done.
 */
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { clock, clockOf, counted, span } from "../../parts/units";
import type { Taps } from "./taps";

type Task = Schemas["TaskView"];

const NAMES: Readonly<Record<string, string>> = {
  unclamp: "Clamps off",
  clean: "Squeeze-out",
  in: "Into conditioning",
  change: "Next phase",
  out: "Out of conditioning",
  break: "Break",
};
const CLEANED = ["left", "wiped wet", "scraped", "chiselled"] as const;
const SOON = 3600;
/** Farther away than this it is no matter for the bench today. */
const AHEAD = 36 * 3600;

interface Props {
  name: string;
  batch: number;
  tasks: readonly Task[];
  now: number;
  taps: Taps;
}

export function OpenTasks({ name, batch, tasks, now, taps }: Props) {
  const left = (t: Task) => (new Date(t.at).getTime() - now) / 1000;
  const near = tasks.filter((t) => t.kind === "clean" || left(t) < AHEAD);
  if (!near.length) return null;
  return (
    <section aria-label={name} className="grid gap-3 md:grid-cols-2">
      {near.map((t) => (
        <Card
          key={`${t.kind} ${t.glueup} ${t.codes[0] ?? ""}`}
          batch={batch}
          task={t}
          left={left(t)}
          taps={taps}
        />
      ))}
    </section>
  );
}

function Card({ batch, task: t, left, taps }: { batch: number; task: Task; left: number; taps: Taps }) {
  const due = left <= 0;
  const isUrgent = due && t.kind !== "clean";
  const many = counted(t.codes.length, "joint");
  return (
    <div className={`sheet flex flex-col gap-2 px-4 py-3 ${isUrgent ? "border-spruce border-l-8" : ""}`}>
      <p className="flex flex-wrap items-baseline justify-between gap-x-3 text-lg">
        <strong>{NAMES[t.kind] ?? t.kind}</strong>
        <span className="text-faded">
          glue-up {t.glueup}, {many}
        </span>
      </p>
      {t.kind !== "clean" && (
        <p
          className="text-5xl font-semibold tabular-nums sm:text-6xl"
          role="timer"
          aria-label={`${NAMES[t.kind] ?? t.kind}, glue-up ${t.glueup}`}
        >
          {due ? (left > -60 ? "Now" : `${span(left)} over`) : left < SOON ? clockOf(left) : span(left)}
        </p>
      )}
      <p className="text-faded">
        {t.kind === "clean"
          ? `Out of the clamps since ${clock(t.at)}: what became of the glue beside the line?`
          : clock(t.at)}
        {t.clamps.length > 0 && `, ${t.clamps.join(", ")}`}
      </p>
      <p className="font-mono text-lg wrap-anywhere">{t.codes.join(" ")}</p>
      <Done batch={batch} task={t} many={many} main={due} taps={taps} />
    </div>
  );
}

function Done({
  batch,
  task: t,
  many,
  main,
  taps,
}: {
  batch: number;
  task: Task;
  many: string;
  main: boolean;
  taps: Taps;
}) {
  const tap = (kind: "unclamped" | "in" | "out" | "cleaned", text = "") =>
    taps.make({ kind, codes: t.codes, text });
  const look = main ? "bench" : "plain";
  const large = "min-h-14 px-4 text-lg";
  switch (t.kind) {
    case "unclamp":
      return (
        <Button look={look} className={large} onClick={() => tap("unclamped")}>
          Clamps are off {many}
        </Button>
      );
    case "clean":
      return (
        <p className="flex flex-wrap gap-2">
          {CLEANED.map((how) => (
            <Button key={how} className={large} onClick={() => tap("cleaned", how)}>
              {how}
            </Button>
          ))}
        </p>
      );
    case "in":
    case "out":
      return (
        <Button look={look} className={large} onClick={() => tap(t.kind === "in" ? "in" : "out")}>
          {t.kind === "in" ? "They are in" : "They are out"}
        </Button>
      );
    case "change":
      return <p className="text-lg">{t.what}.</p>;
    default:
      return (
        <Link
          className="inline-flex min-h-14 items-center text-lg text-spruce underline underline-offset-4"
          to={`/batch/${batch}/break`}
        >
          To the rig
        </Link>
      );
  }
}
