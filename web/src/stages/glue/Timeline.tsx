/**
 * The schedule drawn: hands as one lane, every clamp as a lane of its own; nights and hours off folded
 * and shaded. A gluing can be taken and put down at another time.
 */
import { useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { SCROLLS } from "../../parts/faces";
import { clock } from "../../parts/units";

type S = Schemas["Schedule"];

const HOUR = 3_600_000;
const NIGHT = 34;
const LANE = 22;
const HEAD = 40;
const LABEL = 110;
const SIGNS: Readonly<Record<string, string>> = {
  glue: "G",
  unclamp: "U",
  soak: "S",
  "take out": "O",
  break: "B",
};
const NAMES: Readonly<Record<string, string>> = {
  glue: "glue",
  unclamp: "clamps off",
  soak: "into conditioning",
  "take out": "out of conditioning",
  break: "break",
};
const MOST_LANES = 24;
const MOST_STRETCHES = 24;
const EMPTY = 30;
const STEP = 5 * 60_000;
/** How far a finger may slip before a press is a drag. */
const SLIP = 5;

interface Visit {
  from: number;
  to: number;
  x: number;
  width: number;
  used: boolean;
}

const ms = (t: string) => new Date(t).getTime();

/**
 * What is used of the hours has a width of its own, hours without work a narrow one; what lies between is
 * folded.
 */
function visits(s: S): Visit[] {
  const all = s.hours.map(([from, to]) => {
    const [a, b] = [ms(from), ms(to)];
    const own = s.slots.filter((t) => ms(t.start) >= a && ms(t.start) < b);
    if (!own.length) return { from: a, to: b, used: false };
    const first = Math.min(...own.map((t) => ms(t.start)));
    const end = Math.max(...own.map((t) => ms(t.end)));
    return {
      from: Math.max(a, Math.floor(first / HOUR) * HOUR),
      to: Math.min(b, Math.ceil(end / HOUR) * HOUR),
      used: true,
    };
  });
  const shown = all.length > MOST_STRETCHES ? all.filter((v) => v.used) : all;
  const hours = shown.reduce((sum, v) => sum + (v.used ? (v.to - v.from) / HOUR : 0), 0);
  const scale = Math.max(26, Math.min(90, 1000 / Math.max(1, hours)));
  let x = LABEL + NIGHT / 2;
  return shown.map((v) => {
    const width = v.used ? ((v.to - v.from) / HOUR) * scale : EMPTY;
    const visit = { ...v, x, width };
    x += width + (v.used ? NIGHT : NIGHT / 2);
    return visit;
  });
}

/** The moment drawn at a place, to five minutes: in a night it is the next morning's first. */
function momentAt(list: readonly Visit[], x: number): number {
  const visit = list.find((v) => x <= v.x + v.width) ?? list[list.length - 1]!;
  const share = Math.max(0, Math.min(1, (x - visit.x) / visit.width));
  return Math.round((visit.from + share * (visit.to - visit.from)) / STEP) * STEP;
}

function place(list: readonly Visit[], at: number): number {
  for (const v of list) {
    if (at < v.from) return v.x - NIGHT / 2;
    if (at <= v.to) return v.x + (v.width * (at - v.from)) / (v.to - v.from);
  }
  const last = list[list.length - 1];
  return last ? last.x + last.width + NIGHT / 2 : LABEL;
}

interface Props {
  schedule: S;
  picked: number | null;
  onPick: (run: number) => void;
  onMove: (run: number, to: string) => void;
}

interface Drag {
  run: number;
  /** Where it was taken, and how far right of its start that was. */
  from: number;
  grip: number;
  at: number;
}

export function Timeline({ schedule, picked, onPick, onMove }: Props) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const drawing = useRef<SVGSVGElement>(null);
  const list = visits(schedule);
  if (!list.length) return null;
  const x = (t: string) => place(list, ms(t));
  const names = [...new Set(schedule.lanes.map((l) => `${l.clamp} ${l.number}`))].slice(0, MOST_LANES);
  const others = [...new Set(schedule.others.map((o) => o.batch))];
  const last = list[list.length - 1]!;
  const width = last.x + last.width + NIGHT / 2 + 6;
  const height = HEAD + LANE * (names.length + 1) + 8;
  const chosen =
    schedule.slots.find((t) => t.run === picked && t.kind === "glue") ??
    schedule.slots.find((t) => t.run === picked);
  const held =
    drag && Math.abs(drag.at - drag.from) > SLIP
      ? { ...drag, to: momentAt(list, drag.at - drag.grip) }
      : null;
  const here = (e: React.PointerEvent) => e.clientX - (drawing.current?.getBoundingClientRect().left ?? 0);
  const look = (run: number) =>
    picked === run ? "fill-spruce stroke-spruce" : "fill-spruce-pale stroke-spruce";
  return (
    <div>
      <div className="overflow-x-auto" tabIndex={SCROLLS} role="region" aria-label="Time line">
        <svg
          ref={drawing}
          onPointerMove={(e) => drag && setDrag({ ...drag, at: here(e) })}
          onPointerUp={() => {
            if (held) onMove(held.run, new Date(held.to).toISOString());
            setDrag(null);
          }}
          onPointerCancel={() => setDrag(null)}
          width={width}
          height={height}
          role="img"
          aria-label={`${schedule.slots.length} tasks in ${list.length} visits, ${names.length} clamps`}
          className={`block select-none ${held ? "cursor-grabbing" : ""}`}
        >
          <rect x={LABEL} y={0} width={width - LABEL} height={height} className="fill-ink/10" />
          {list.map((v) => (
            <g key={v.from}>
              <rect x={v.x} y={0} width={v.width} height={height} className="fill-sheet" />
              <text x={v.x + 3} y={14} className="fill-ink text-[12px] font-semibold">
                {new Date(v.from).toLocaleDateString(
                  undefined,
                  v.used
                    ? { weekday: "short", day: "numeric", month: v.width > 100 ? "short" : "numeric" }
                    : { weekday: "short" },
                )}
              </text>
              {(v.used ? ticks(v) : []).map(([at, text]) => (
                <g key={at}>
                  <path d={`M${place(list, at)} ${HEAD - 8}V${height}`} className="stroke-rule" />
                  <text
                    x={place(list, at)}
                    y={HEAD - 12}
                    textAnchor="middle"
                    className="fill-faded text-[10px]"
                  >
                    {text}
                  </text>
                </g>
              ))}
            </g>
          ))}
          <text x={4} y={HEAD + 15} className="fill-ink text-[12px] font-semibold">
            Hands
          </text>
          {schedule.others
            .filter((o) => list.some((v) => ms(o.start) < v.to && ms(o.end) > v.from))
            .map((o) => (
              <g key={`${o.batch} ${o.kind} ${o.start}`} data-other={o.batch}>
                <title>{`${o.batch}: ${NAMES[o.kind] ?? o.kind}, ${clock(o.start)}`}</title>
                <rect
                  x={x(o.start)}
                  y={HEAD + 2}
                  width={Math.max(4, x(o.end) - x(o.start))}
                  height={LANE - 5}
                  className="fill-none stroke-faded"
                  strokeDasharray="3 2"
                  rx="2"
                />
              </g>
            ))}
          {schedule.slots.map((t) => (
            <g
              key={`${t.run} ${t.kind} ${t.start}`}
              data-task={`${t.kind} ${t.run}`}
              onClick={() => onPick(t.run)}
              onPointerDown={(e) => {
                if (t.kind !== "glue" || t.done || e.button !== 0) return;
                e.currentTarget.ownerSVGElement?.setPointerCapture(e.pointerId);
                onPick(t.run);
                setDrag({ run: t.run, from: here(e), grip: here(e) - x(t.start), at: here(e) });
              }}
              className={t.kind === "glue" && !t.done ? "cursor-grab touch-none" : "cursor-pointer"}
            >
              <title>{`${NAMES[t.kind] ?? t.kind}, ${t.codes.length}`}</title>
              <rect
                x={x(t.start)}
                y={HEAD + 2}
                width={Math.max(4, x(t.end) - x(t.start))}
                height={LANE - 5}
                className={`${look(t.run)} ${t.done ? "opacity-50" : ""}`}
                strokeWidth="1"
                rx="2"
              />
              {x(t.end) - x(t.start) > 11 && (
                <text
                  x={(x(t.start) + x(t.end)) / 2}
                  y={HEAD + 15}
                  textAnchor="middle"
                  className={`text-[11px] font-semibold ${picked === t.run ? "fill-sheet" : "fill-ink"}`}
                >
                  {SIGNS[t.kind]}
                </text>
              )}
            </g>
          ))}
          {names.map((name, i) => (
            <g key={name}>
              <path d={`M0 ${HEAD + LANE * (i + 1)}H${width}`} className="stroke-rule" />
              <text x={4} y={HEAD + LANE * (i + 1) + 15} className="fill-ink text-[12px]">
                {name.length > 17 ? `${name.slice(0, 16)}…` : name}
              </text>
              {schedule.lanes
                .filter((l) => `${l.clamp} ${l.number}` === name)
                .map((l) => (
                  <g key={`${l.run} ${l.start}`} onClick={() => onPick(l.run)} className="cursor-pointer">
                    <rect
                      x={x(l.start)}
                      y={HEAD + LANE * (i + 1) + 3}
                      width={Math.max(4, x(l.end) - x(l.start))}
                      height={LANE - 6}
                      className={picked === l.run ? "fill-wood stroke-ink" : "fill-wood-pale stroke-wood"}
                      strokeWidth="1"
                      rx="2"
                    />
                    {x(l.end) - x(l.start) > 9 * l.letters.join(" ").length && (
                      <text
                        x={(x(l.start) + x(l.end)) / 2}
                        y={HEAD + LANE * (i + 1) + 15}
                        textAnchor="middle"
                        className="fill-ink font-mono text-[11px]"
                      >
                        {l.letters.join(" ")}
                      </text>
                    )}
                  </g>
                ))}
            </g>
          ))}
          {held && (
            <g className="pointer-events-none">
              <path
                d={`M${place(list, held.to)} ${HEAD - 4}V${height}`}
                className="stroke-spruce"
                strokeWidth="2"
                strokeDasharray="4 3"
              />
            </g>
          )}
        </svg>
      </div>
      <p className="min-h-6 text-sm text-faded" role="status">
        {held
          ? `Begin run ${held.run} at ${clock(new Date(held.to).toISOString())}`
          : chosen
            ? `${chosen.run ? `Run ${chosen.run}` : "Glued before"}: ${chosen.codes.join(" ")}`
            : "G glue (drag it to another time), U clamps off, S into and O out of conditioning, B break; " +
              "letters are treatments; shaded: away from the bench."}
        {others.length > 0 && ` Dashed: hands at work for ${others.join(", ")}.`}
        {schedule.lanes.length > 0 && names.length === MOST_LANES && " Only the first clamps are drawn."}
      </p>
    </div>
  );
}

/** Full hours of a visit, as many as there is room for. */
function ticks(v: Visit): [number, string][] {
  const step = [1, 2, 3, 6].find((h) => (v.width * h * HOUR) / (v.to - v.from) >= 34) ?? 12;
  const first = new Date(v.from);
  first.setMinutes(0, 0, 0);
  const found: [number, string][] = [];
  for (let at = first.getTime(); at <= v.to; at += HOUR) {
    const hour = new Date(at).getHours();
    if (at >= v.from && hour % step === 0) found.push([at, String(hour)]);
  }
  return found;
}
