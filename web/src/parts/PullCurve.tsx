/** The curve of a pull that is over: its marks, which can be moved, and what follows from them. */
import { lazy, Suspense, useMemo } from "react";
import { moveMark, useCurve } from "../api/curves";
import { useWrite } from "../api/queries";
import type { Schemas } from "../api/client";
import { Notice, ProblemNote } from "./controls";
import { grouped, useUnits, type Units } from "./units";

const Curve = lazy(() => import("./Curve"));
type Course = Schemas["Course"];
type Figures = Schemas["Figures"];

interface Props {
  batch: number;
  pull: number;
  resolution: number | null;
  height?: number;
}

export function PullCurve({ batch, pull, resolution, height = 300 }: Props) {
  const units = useUnits();
  const { data } = useCurve(batch, pull);
  const move = useWrite(([mark, s]: [string, number]) => moveMark(pull, mark, s), batch);
  const course = data?.course ?? null;
  const tare = data?.tare_n ?? 0;
  const handles = useMemo(
    () =>
      Object.entries(course?.marks ?? {}).map(([key, m]) => ({
        key,
        name: data?.mark_names[key] ?? key,
        s: m.s,
        load: m.load_n,
      })),
    [course, data],
  );
  if (!data) return <div style={{ height }} />;
  const force = (n: number) => units.text(n + tare, "force", resolution);
  const peak = course?.marks["peak"]?.load_n ?? data.proposal?.reading.peak_n;
  return (
    <div>
      <Suspense fallback={<div style={{ height }} />}>
        <Curve
          key={`recorded ${pull}`}
          points={data.points as [number, number][]}
          tick={pull}
          height={height}
          marks={peak ? [{ load: peak, text: `peak ${force(peak)}` }] : []}
          gaps={(data.proposal?.reading.gaps ?? []).map((g) => [g.from_s, g.to_s ?? g.from_s] as const)}
          handles={handles}
          onMove={(mark, s) => move.mutate([mark, s])}
        />
      </Suspense>
      <ProblemNote problem={move.error} />
      {course && <Marks course={course} byHand={data.by_hand} names={data.mark_names} force={force} />}
      {course && <Follows course={course} units={units} force={force} />}
      {data.pace_missed && <Notice>Loaded {data.pace_missed} for the plan.</Notice>}
      <p className="text-sm text-faded">
        <a className="underline" href={`/api/pulls/${pull}/trace.csv`} download>
          The raw signal as a file
        </a>
      </p>
    </div>
  );
}

interface MarksProps {
  course: Course;
  byHand: readonly string[];
  names: Readonly<Record<string, string>>;
  force: (n: number) => string;
}

/** Where the marks lie; which of them a person moved. */
function Marks({ course, byHand, names, force }: MarksProps) {
  return (
    <dl className="grid grid-cols-[repeat(auto-fill,minmax(13rem,1fr))] gap-x-4 text-sm" aria-label="Marks">
      {Object.entries(course.marks).map(([key, m]) => (
        <div key={key} className="flex justify-between gap-2">
          <dt className="text-faded">
            {names[key]}
            {byHand.includes(key) && " (moved by hand)"}
          </dt>
          <dd>{key === "start" ? `${m.s.toFixed(2)} s` : `${force(m.load_n)}, ${m.s.toFixed(2)} s`}</dd>
        </div>
      ))}
    </dl>
  );
}

const per = (n: number, units: Units, over: "s" | "length") => {
  const value = units.convert(n, "force") / (over === "length" ? units.convert(1, "length") : 1);
  const decimals = Math.max(0, 2 - Math.floor(Math.log10(Math.max(Math.abs(value), 1e-9))));
  const below = over === "s" ? "s" : units.symbol("length");
  return `${grouped(value, Math.min(4, decimals))} ${units.symbol("force")}/${below}`;
};

function inWords(f: Figures, units: Units): string[] {
  const said: string[] = [];
  if (f.to_failure_s != null) said.push(`${f.to_failure_s.toFixed(1)} s to the peak`);
  if (f.rate_n_s != null) said.push(per(f.rate_n_s, units, "s"));
  if (f.stiffness != null && f.by_travel) said.push(`stiffness ${per(f.stiffness, units, "length")}`);
  if (f.travel_mm != null) said.push(`${units.text(f.travel_mm, "length")} of travel at the peak`);
  if (f.travel_parting_mm != null && f.travel_parting_mm !== f.travel_mm)
    said.push(`${units.text(f.travel_parting_mm, "length")} at the parting`);
  if (f.energy_j != null) said.push(`${f.energy_j.toPrecision(3)} J up to the peak`);
  if (f.energy_parting_j != null && f.energy_parting_j !== f.energy_j)
    said.push(`${f.energy_parting_j.toPrecision(3)} J up to the parting`);
  if (f.hold_s != null) said.push(`stood still for ${f.hold_s.toFixed(0)} s before it parted`);
  return said;
}

/** What follows from the marks. */
function Follows({ course, units, force }: { course: Course; units: Units; force: (n: number) => string }) {
  const drops = course.drops.filter((d) => d.s < (course.marks["peak"]?.s ?? 0));
  return (
    <div className="text-sm" aria-label="What follows from the curve">
      <p>{inWords(course.figures, units).join(" · ")}</p>
      {drops.length > 0 && <p>Dropped on its way at {drops.map((d) => force(d.load_n)).join(", ")}.</p>}
      {course.cycles.map((c, i) => (
        <p key={c.s}>
          Cycle {i + 1}: up to {force(c.load_n)}
          {c.residual_mm != null && `, ${units.text(c.residual_mm, "length")} stayed after the release`}
        </p>
      ))}
      {!course.figures.by_travel && (
        <p className="text-faded">
          No travel was recorded: the straight line is one over time, true while the load rises evenly.
        </p>
      )}
    </div>
  );
}
