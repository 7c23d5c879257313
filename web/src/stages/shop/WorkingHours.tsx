/**
 * The bench that gluing is scheduled for: clamps and weights, the hours of the week, and how long hands
 * take.
 */
import { CountField } from "../../parts/CountField";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWorkingHours, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { useUnits } from "../../parts/units";

const KINDS = ["bar", "screw", "spring", "weight", "press", "vacuum", "tape"] as const;
/** What presses with its own force, whatever is wanted. */
const OWN_FORCE = ["weight", "spring"];
const DAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"] as const;
const TAKES = [
  ["mix_s", "to set up and mix"],
  ["joint_s", "to spread, close and clamp a joint"],
  ["unclamp_s", "to take a clamp off"],
  ["soak_s", "in or out of a bath"],
  ["break_s", "to break a piece"],
  ["saw_s", "for a cut of the saw through a panel"],
] as const;

export function WorkingHours() {
  const { data } = useWorkingHours();
  if (!data) return <Waiting what="the bench" />;
  return (
    <div className="mt-8">
      <Clamps view={data} />
      <Hours view={data} key={JSON.stringify([data.weekly, data.pace, data.zone, data.tolerance])} />
    </div>
  );
}

const EMPTY: Schemas["ClampsIn"] = {
  label: "",
  kind: "bar",
  count: 4,
  force_n: null,
  places: 1,
  jaw_mm: null,
  force_known: "estimated",
  known_by: "feel",
  caul_mm: null,
};

const KNOWN_BY: Readonly<Record<string, string>> = {
  gauge: "by a gauge under the clamp",
  turns: "by turns of the handle",
  feel: "by feel",
  weight: "by what it weighs",
  unknown: "not at all",
};

function Clamps({ view }: { view: Schemas["WorkingHoursView"] }) {
  const units = useUnits();
  const [form, setForm] = useState(EMPTY);
  const add = useWrite(writes.clamps);
  const retire = useWrite(writes.retireClamps);
  const set = (part: Partial<Schemas["ClampsIn"]>) => setForm((before) => ({ ...before, ...part }));
  return (
    <section aria-labelledby="clamps">
      <h2 id="clamps" className="mb-2 text-xl font-bold">
        Clamps and weights
      </h2>
      <ul className="mb-3">
        {view.clamps.map((c) => (
          <li key={c.id} className="flex flex-wrap items-baseline gap-x-3 border-t border-rule py-2">
            <span className="font-semibold wrap-anywhere">
              {c.count} × {c.label}
            </span>
            <span className="text-faded">
              {c.kind}
              {c.force_n != null &&
                `, ${OWN_FORCE.includes(c.kind) ? "" : "up to "}${units.typed(c.force_n, "force")}`}
              {c.force_n != null && ` each, ${c.known_by ? `known ${KNOWN_BY[c.known_by]}` : c.force_known}`}
              {c.caul_mm != null && `, caul ${units.typed(c.caul_mm, "length")}`}
              {c.places > 1 && `, ${c.places} joints at once`}
            </span>
            <Button
              look="quiet"
              className="ml-auto text-sm"
              disabled={retire.isPending}
              onClick={() => retire.mutate(c.id)}
            >
              gone
            </Button>
          </li>
        ))}
        {view.clamps.length === 0 && <li className="text-faded">No clamp yet: nothing can be scheduled.</li>}
      </ul>
      <form
        className="leading-10"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate(form, { onSuccess: () => setForm(EMPTY) });
        }}
      >
        New:{" "}
        <CountField
          label="How many clamps"
          className="w-16"
          value={form.count}
          onChange={(count) => set({ count })}
        />{" "}
        <input
          aria-label="Name of the clamps"
          className="written w-40"
          placeholder="what they are called"
          value={form.label}
          onChange={(e) => set({ label: e.target.value })}
        />
        , a kind of{" "}
        <select
          aria-label="Kind of clamp"
          className="written"
          value={form.kind}
          onChange={(e) => set({ kind: e.target.value })}
        >
          {KINDS.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </select>
        , {OWN_FORCE.includes(form.kind) ? "each pressing with" : "each giving up to"}{" "}
        <QuantityField
          label="Force of one clamp"
          dimension="force"
          className="w-24"
          value={form.force_n ?? null}
          placeholder="any"
          problem={add.error?.of("force_n")?.message}
          onChange={(force_n) => set({ force_n })}
        />{" "}
        known{" "}
        <select
          aria-label="How the force is known"
          className="written"
          value={form.known_by}
          onChange={(e) => set({ known_by: e.target.value })}
        >
          {Object.entries(KNOWN_BY).map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        , with a caul of{" "}
        <QuantityField
          label="Thickness of the caul"
          dimension="length"
          className="w-20"
          value={form.caul_mm ?? null}
          placeholder="none"
          problem={add.error?.of("caul_mm")?.message}
          onChange={(caul_mm) => set({ caul_mm })}
        />
        , for{" "}
        <CountField
          label="Joints at once"
          max={50}
          value={form.places ?? 1}
          onChange={(places) => set({ places })}
        />{" "}
        joint{form.places === 1 ? "" : "s"} at once.{" "}
        <Button type="submit" className="leading-6" disabled={add.isPending}>
          Add the clamps
        </Button>
      </form>
      <ProblemNote problem={add.error ?? retire.error} />
    </section>
  );
}

/** Midnight at the end of a day is written 23:59: the field knows no 24:00. */
const hhmm = (all: number, minutes = Math.min(all, 1439)) =>
  `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
const minutes = (text: string) => {
  const [h = 0, m = 0] = text.split(":").map(Number);
  return h === 23 && m === 59 ? 1440 : 60 * h + m;
};

function Hours({ view }: { view: Schemas["WorkingHoursView"] }) {
  const here = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
  const [weekly, setWeekly] = useState(view.weekly as [number, number, number][]);
  const [pace, setPace] = useState(view.pace);
  const [tolerance, setTolerance] = useState(view.tolerance);
  const [air, setAir] = useState(view.air_c);
  const save = useWrite(writes.workingHours);
  const set = (i: number, part: readonly [number, number, number]) =>
    setWeekly(weekly.map((x, j) => (i === j ? [...part] : x)) as [number, number, number][]);
  return (
    <section aria-labelledby="hours" className="mt-6">
      <h2 id="hours" className="mb-2 text-xl font-bold">
        Hours and hands
      </h2>
      <ul>
        {weekly.map(([day, a, b], i) => (
          <li key={i} className="leading-9">
            <select
              aria-label={`Day of stretch ${i + 1}`}
              className="written"
              value={day}
              onChange={(e) => set(i, [Number(e.target.value), a, b])}
            >
              {DAYS.map((name, n) => (
                <option key={name} value={n}>
                  {name}
                </option>
              ))}
            </select>{" "}
            <input
              aria-label={`From, stretch ${i + 1}`}
              type="time"
              className="written"
              value={hhmm(a)}
              onChange={(e) => set(i, [day, minutes(e.target.value), b])}
            />{" "}
            to{" "}
            <input
              aria-label={`To, stretch ${i + 1}`}
              type="time"
              className="written"
              value={hhmm(b)}
              onChange={(e) => set(i, [day, a, minutes(e.target.value)])}
            />
            <button
              type="button"
              aria-label={`Leave out stretch ${i + 1}`}
              className="px-2 text-faded hover:text-alarm"
              onClick={() => setWeekly(weekly.filter((_, j) => j !== i))}
            >
              ×
            </button>
          </li>
        ))}
      </ul>
      <Button look="quiet" onClick={() => setWeekly([...weekly, [weekly.length % 7, 17 * 60, 21 * 60]])}>
        another stretch
      </Button>
      <p className="leading-10">
        My hands take{" "}
        {TAKES.map(([key, name], i) => (
          <span key={key}>
            {i > 0 && ", "}
            <QuantityField
              label={name}
              dimension="time"
              unit={pace[key] >= 120 ? "min" : "s"}
              className="w-20"
              value={pace[key]}
              onChange={(v) => v !== null && setPace((before) => ({ ...before, [key]: Math.round(v) }))}
            />{" "}
            {name}
          </span>
        ))}
        .{" "}
        {view.learned_joint_s !== null && Math.abs(view.learned_joint_s - pace.joint_s) > 5 && (
          <span className="text-sm text-faded">
            At the bench a joint took you {view.learned_joint_s} s lately.{" "}
            <button
              type="button"
              className="text-spruce underline underline-offset-4"
              onClick={() => setPace({ ...pace, joint_s: view.learned_joint_s! })}
            >
              Take that
            </button>{" "}
          </span>
        )}
        Times may be off by{" "}
        <QuantityField
          label="Usual tolerance of times"
          dimension="share"
          className="w-16"
          value={100 * (tolerance ?? 0.05)}
          onChange={(v) => v !== null && setTolerance(v / 100)}
        />{" "}
        unless the plan says otherwise. Where I glue it is{" "}
        <QuantityField
          label="Usual air temperature"
          dimension="temperature"
          className="w-20"
          value={air ?? 20}
          onChange={(v) => v !== null && setAir(v)}
        />{" "}
        : open time and pot life are reckoned for that.
      </p>
      <p className="flex flex-wrap items-center gap-3">
        <Button
          look="main"
          disabled={save.isPending}
          onClick={() =>
            save.mutate({ weekly, zone: here, off: view.off ?? [], pace, tolerance, air_c: air })
          }
        >
          Save the hours
        </Button>
        <span className="text-sm text-faded">Time zone: {here}.</span>
        {save.isSuccess && (
          <span role="status" className="text-sm text-faded">
            Saved.
          </span>
        )}
      </p>
      <ProblemNote problem={save.error} />
    </section>
  );
}
