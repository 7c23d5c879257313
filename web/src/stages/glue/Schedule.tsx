/**
 * When to glue, unclamp, soak and break: a schedule made at once, improved while one looks on, on a time
 * line and as a sheet.
 */
import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import { useQueryClient } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { useSchedule, useWrite, writes } from "../../api/queries";
import { Button, Notice, ProblemNote } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";
import { clock, counted, hour } from "../../parts/units";
import { Timeline } from "./Timeline";
import { WhatIf } from "./WhatIf";

type View = Schemas["ScheduleView"];
type Style = "blocks" | "loads";

const STYLES: Readonly<Record<Style, string>> = {
  blocks: "in blocks: each run holds one joint of every treatment it can",
  loads: "in loads: a run holds all pieces of one treatment",
};

export function Schedule({ batch }: { batch: number }) {
  const { data: view } = useSchedule(batch);
  const client = useQueryClient();
  const [style, setStyle] = useState<Style>("blocks");
  const [from, setFrom] = useState("");
  const make = useWrite((body: Schemas["ScheduleIn"]) => writes.schedule(batch, body), batch);
  const stop = useWrite(() => writes.stopSchedule(batch), batch);
  const seeking = view?.seeking ?? false;
  // A search that ends by itself changes what undo would take back.
  useEffect(() => {
    if (!seeking) void client.invalidateQueries({ queryKey: ["batch", batch, "undo"] });
  }, [client, batch, seeking]);
  if (!view || (view.waiting === 0 && !view.schedule)) return null;
  const s = view.schedule;
  return (
    <details open={s !== null} className="border-y border-rule py-2">
      <summary className="cursor-pointer font-semibold">
        {s ? `Done by ${clock(s.finish)}, in ${counted(s.visits, "visit")}` : "When to glue"}
      </summary>
      {view.clamps === 0 ? (
        <p className="mt-2">
          Say under{" "}
          <Link className="text-spruce underline underline-offset-4" to="/shop">
            Shop
          </Link>{" "}
          which clamps and weights there are and when you are at the bench; the rest is worked out here.
        </p>
      ) : (
        <div className="no-print mt-2 flex flex-wrap items-center gap-2 leading-9">
          Schedule {counted(view.waiting, "joint")}{" "}
          <select
            aria-label="How runs are composed"
            className="written max-w-full"
            value={style}
            onChange={(e) => setStyle(e.target.value as Style)}
          >
            {Object.entries(STYLES).map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>{" "}
          from{" "}
          <input
            type="datetime-local"
            aria-label="Start of the schedule"
            className="written"
            value={from}
            onChange={(e) => setFrom(e.target.value)}
          />{" "}
          on
          <Button
            look={s ? "plain" : "main"}
            className="leading-6"
            disabled={make.isPending}
            onClick={() =>
              make.mutate({ style, start: from ? new Date(from).toISOString() : null, seek: true })
            }
          >
            {s ? "Schedule again" : "Make a schedule"}
          </Button>
          {seeking && (
            <>
              <span role="status" className="text-faded">
                Looking for a better one …{" "}
                {view.progress &&
                  `so far ${clock(view.progress.finish)} in ${counted(view.progress.visits, "visit")}`}
              </span>
              {view.progress && (
                <progress
                  aria-label="How far the search is"
                  className="h-2 w-28 accent-spruce"
                  value={view.progress.share}
                  max={1}
                />
              )}
              <Button disabled={stop.isPending} onClick={() => stop.mutate(undefined)}>
                This one will do
              </Button>
            </>
          )}
        </div>
      )}
      <ProblemNote problem={make.error} />
      {s && (
        <Shown
          view={view}
          schedule={s}
          batch={batch}
          pending={make.isPending}
          onAllow={(allowed) => make.mutate({ style: s.style as Style, start: s.start, seek: true, allowed })}
        />
      )}
    </details>
  );
}

type Allowed = Schemas["Allowed"];

interface ShownProps {
  view: View;
  schedule: Schemas["Schedule"];
  batch: number;
  pending: boolean;
  /** Schedule again with these changes to what was asked for. */
  onAllow: (allowed: Allowed[]) => void;
}

function Shown({ view, schedule: s, batch, pending, onAllow }: ShownProps) {
  const [picked, setPicked] = useState<number | null>(null);
  // How often a run was picked in the sheet: each time the field for its start takes the focus.
  const [asked, setAsked] = useState(0);
  const fromDrawing = (number: number) => {
    setPicked(number);
    setAsked(0);
  };
  const fromSheet = (number: number) => {
    setPicked(number);
    setAsked(asked + 1);
  };
  const move = useWrite(
    ({ number, to, snap }: { number: number; to: string; snap: boolean }) =>
      writes.moveRun(batch, number, { to, snap }),
    batch,
  );
  const run = s.slots.find((t) => t.run === picked && t.kind === "glue" && !t.done);
  return (
    <div className="mt-2 space-y-3">
      {s.stale && <Notice>Joints were added since this schedule was made: schedule again.</Notice>}
      {s.late.length > 0 && <Notice>{s.late.join(" ")} What follows is planned from what happened.</Notice>}
      {view.adherence.length > 0 && (
        <p className="text-sm text-faded">Against the schedule so far: {view.adherence.join("; ")}.</p>
      )}
      {s.reasons.map((r) => (
        <div key={r.text} className="border-l-4 border-notice bg-notice-pale px-3 py-1.5 text-notice">
          <p>
            {counted(r.codes.length, "joint is", "joints are")}{" "}
            {r.proved ? "impossible as it stands" : "not placed"}: {r.text}
          </p>
          {r.remedies.length > 0 && (
            <p className="mt-1 flex flex-wrap items-center gap-2">
              What would help:
              {r.remedies.map((m) =>
                m.kind === "force" ? (
                  <Link key={m.text} className="underline underline-offset-4" to="/shop">
                    {m.text}
                  </Link>
                ) : (
                  <Button
                    key={m.text}
                    disabled={pending}
                    onClick={() =>
                      onAllow([
                        ...s.allowed,
                        { kind: m.kind, text: m.text, amount: m.amount, key: m.key, codes: r.codes },
                      ])
                    }
                  >
                    {m.text}
                  </Button>
                ),
              )}
            </p>
          )}
        </div>
      ))}
      {s.allowed.length > 0 && (
        <ul aria-label="Allowed for this schedule" className="text-sm">
          {s.allowed.map((a, i) => (
            <li key={a.text + String(i)} className="flex flex-wrap items-center gap-x-3">
              <span>
                Allowed: {a.text}
                {a.codes.length > 0 && ` (${counted(a.codes.length, "joint")})`}
              </span>
              <Button
                look="quiet"
                className="no-print py-0 text-sm"
                disabled={pending}
                onClick={() => onAllow(s.allowed.filter((_, j) => j !== i))}
              >
                take back
              </Button>
            </li>
          ))}
        </ul>
      )}
      <p className="text-sm text-faded">
        {view.trades.map(inWords).join(" ")} Pieces of one load share their clamp and their mix: they are not
        independent. Sought in this order: done soon
        {s.proved && " (no schedule of these runs ends sooner: proved)"}, few visits, and treatments spread
        evenly over them:{" "}
        {s.uneven < 0.05
          ? "they are"
          : `a visit is off by ${s.uneven.toFixed(1)} joints of a treatment on average`}
        .
      </p>
      {s.alone.map((text) => (
        <Notice key={text}>{text}</Notice>
      ))}
      <Timeline
        schedule={s}
        picked={picked}
        onPick={fromDrawing}
        onMove={(number, to) => move.mutate({ number, to, snap: true })}
      />
      {move.isPending && (
        <p role="status" className="text-faded">
          Checking …
        </p>
      )}
      <ProblemNote problem={move.error} />
      {move.data && <Landed view={move.data} run={move.variables.number} asked={move.variables.to} />}
      {run && (
        <Move
          key={`${run.run} ${run.start}`}
          run={run}
          asked={asked}
          pending={move.isPending}
          onMove={(to) => move.mutate({ number: run.run, to, snap: false })}
        />
      )}
      <WhatIf batch={batch} onTake={(more) => onAllow([...s.allowed, ...more])} />
      <Sheet schedule={s} onPick={fromSheet} />
      <p className="no-print flex flex-wrap gap-x-5">
        <a
          className="text-spruce underline underline-offset-4"
          href={`/api/batches/${batch}/schedule.ics`}
          download
        >
          Take it to a calendar (iCalendar)
        </a>
        <Button look="quiet" className="py-0" onClick={() => window.print()}>
          Print the sheet
        </Button>
      </p>
    </div>
  );
}

/** Where a run came to lie, if not where it was put down. */
function Landed({ view, run, asked }: { view: View; run: number; asked: string }) {
  const at = view.schedule?.slots.find((t) => t.run === run && t.kind === "glue")?.start;
  if (!at || new Date(at).getTime() - new Date(asked).getTime() < 16 * 60_000) return null;
  return (
    <p role="status">
      Run {run} begins {clock(at)}: the next moment at which hands, clamps and ages all agree.
    </p>
  );
}

/** What a datetime-local field takes: the time here, to the minute. */
function local(iso: string): string {
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

interface MoveProps {
  run: Schemas["SlotView"];
  asked: number;
  pending: boolean;
  onMove: (to: string) => void;
}

/** The picked run at another time: the others stay, and everything is checked again. */
function Move({ run, asked, pending, onMove }: MoveProps) {
  const [to, setTo] = useState(local(run.start));
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    if (asked > 0) field.current?.focus();
  }, [asked]);
  return (
    <p className="no-print flex flex-wrap items-center gap-2">
      Begin run {run.run} at{" "}
      <input
        ref={field}
        type="datetime-local"
        aria-label={`Start of run ${run.run}`}
        className="written"
        value={to}
        onChange={(e) => setTo(e.target.value)}
      />
      <Button disabled={pending || !to} onClick={() => onMove(new Date(to).toISOString())}>
        Move it
      </Button>
    </p>
  );
}

const WHAT: Readonly<Record<string, string>> = {
  glue: "Glue",
  unclamp: "Clamps off",
  soak: "Into conditioning",
  "take out": "Out of conditioning",
  break: "Break",
};
const FEW = 12;

/** The same as a list to carry to the bench, day by day. */
function Sheet({ schedule, onPick }: { schedule: Schemas["Schedule"]; onPick: (run: number) => void }) {
  const [all, setAll] = useState(false);
  const open = schedule.slots.filter((s) => !s.done);
  const shown = all ? schedule.slots : open.slice(0, FEW);
  return (
    <div className="overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Bench sheet">
      <table className="w-full text-left">
        <caption className="sr-only">What to do when</caption>
        <thead className="head">
          <tr>
            <th scope="col">When</th>
            <th scope="col">What</th>
            <th scope="col">Pieces</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((s) => (
            <tr
              // Not by its time: a row that was moved stays the row that the focus is in.
              key={`${s.run} ${s.kind} ${s.codes[0] ?? s.start}`}
              className={`border-t border-rule align-top ${s.done ? "text-faded" : ""}`}
            >
              <td className="py-1 pr-4 whitespace-nowrap">
                {clock(s.start)} <span className="text-faded">to {hour(s.end)}</span>
              </td>
              <td className="py-1 pr-4 whitespace-nowrap">
                {WHAT[s.kind] ?? s.kind}
                {s.run > 0 && <span className="text-faded"> run {s.run}</span>}
                {s.done && ", done"}
                {s.kind === "glue" && !s.done && (
                  <Button
                    look="quiet"
                    className="no-print ml-2 py-0 text-sm"
                    aria-label={`Move run ${s.run}`}
                    onClick={() => onPick(s.run)}
                  >
                    move
                  </Button>
                )}
              </td>
              <td className="min-w-56 py-1 font-mono text-sm">{s.codes.join(" ")}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {schedule.slots.length > shown.length && !all && (
        <Button look="quiet" className="no-print" onClick={() => setAll(true)}>
          Show all {schedule.slots.length}
        </Button>
      )}
    </div>
  );
}

/** What the other way of composing runs would come to. */
function inWords(t: Schemas["Trade"]): string {
  const left = t.unplaced ? [`${counted(t.unplaced, "joint")} without a time`] : [];
  const costs = [counted(t.visits, "visit"), counted(t.runs, "mix", "mixes"), ...left].join(", ");
  return `${t.style === "blocks" ? "In blocks" : "In loads"}: done by ${clock(t.finish)}, ${costs}.`;
}
