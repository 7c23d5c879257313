/** A load curve over time, live or recorded. */
import { useEffect, useRef, useState, type RefObject } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import { grouped, useUnits } from "./units";

type Points = readonly (readonly [number, number])[];

interface Props {
  /** (s, N): a list, or a ref to one that grows in place. */
  points: Points | RefObject<Points>;
  /** Changes whenever the points have. */
  tick: number;
  /** The last so many seconds; all of them if left out. */
  window?: number;
  marks?: readonly { load: number; text: string }[];
  /** Stretches (s) without a signal. */
  gaps?: readonly (readonly [number, number])[];
  /** Marks that can be moved along the curve, the one that is chosen drawn with its words. */
  handles?: readonly Handle[];
  onMove?: (key: string, s: number) => void;
  height: number;
}

export interface Handle {
  key: string;
  name: string;
  s: number;
  load: number;
}

function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
}

const NONE: readonly Handle[] = [];

export default function Curve({
  points,
  tick,
  window: seconds,
  marks = [],
  gaps = [],
  handles = NONE,
  onMove,
  height,
}: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const units = useUnits();
  const symbol = units.symbol("force");
  const scale = units.convert(1, "force");
  const lines = useRef(marks);
  const holes = useRef(gaps);
  const [drawn, setDrawn] = useState<uPlot | null>(null);

  useEffect(() => {
    lines.current = marks;
    holes.current = gaps;
  }, [marks, gaps]);

  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const faded = token("faded");
    const axis = {
      stroke: faded,
      grid: { stroke: token("rule"), width: 1 },
      ticks: { stroke: token("rule") },
      font: "13px 'Atkinson Hyperlegible Next Variable', sans-serif",
    };
    const made = new uPlot(
      {
        width: element.clientWidth,
        height,
        cursor: { show: false },
        legend: { show: false },
        scales: {
          x: { time: false },
          y: { range: (_, low, high) => [Math.min(0, low ?? 0), Math.max((high ?? 0) * 1.08, 100 * scale)] },
        },
        axes: [
          { ...axis, values: (_, ticks) => ticks.map((t) => `${t} s`) },
          {
            ...axis,
            size: 68,
            values: (_, ticks) => ticks.map((t) => grouped(t, Number.isInteger(t) ? 0 : 1)),
            label: symbol,
            labelSize: 18,
            labelFont: axis.font,
          },
        ],
        series: [{}, { stroke: token("spruce"), width: 2, points: { show: false } }],
        hooks: {
          draw: [
            (u) => {
              for (const [from, to] of holes.current) {
                u.ctx.fillStyle = token("notice-pale");
                const [a, b] = [u.valToPos(from, "x", true), u.valToPos(to, "x", true)];
                u.ctx.fillRect(a, u.bbox.top, Math.max(2, b - a), u.bbox.height);
                u.ctx.fillStyle = token("notice");
                u.ctx.fillText("no signal", a + 4, u.bbox.top + 14);
              }
              for (const mark of lines.current) {
                const y = u.valToPos(mark.load * scale, "y", true);
                u.ctx.strokeStyle = token("wood");
                u.ctx.fillStyle = token("ink");
                u.ctx.textAlign = "left";
                u.ctx.beginPath();
                u.ctx.moveTo(u.bbox.left, y);
                u.ctx.lineTo(u.bbox.left + u.bbox.width, y);
                u.ctx.stroke();
                u.ctx.fillText(mark.text, u.bbox.left + 8, y - 6);
              }
            },
          ],
        },
      },
      [[], []],
      element,
    );
    plot.current = made;
    setDrawn(made);
    const watch = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }));
    watch.observe(element);
    return () => {
      watch.disconnect();
      made.destroy();
      plot.current = null;
      setDrawn(null);
    };
  }, [height, symbol, scale]);

  useEffect(() => {
    const all = "current" in points ? points.current : points;
    const last = all.at(-1)?.[0] ?? 0;
    const from = seconds === undefined ? -Infinity : last - seconds;
    const start = all.findIndex(([t]) => t >= from);
    const shown = start < 0 ? [] : all.slice(start);
    const origin = seconds === undefined ? 0 : last;
    plot.current?.setData([shown.map(([t]) => t - origin), shown.map(([, f]) => f * scale)]);
  }, [points, tick, seconds, scale]);

  return (
    <div className="relative">
      <div
        ref={holder}
        className="w-full overflow-hidden"
        style={{ height }}
        role="img"
        aria-label={`Load over time, ${symbol}`}
      />
      {drawn && onMove && handles.length > 0 && (
        <Handles plot={drawn} handles={handles} scale={scale} onMove={onMove} tick={tick} />
      )}
    </div>
  );
}

interface HandlesProps {
  plot: uPlot;
  handles: readonly Handle[];
  scale: number;
  tick: number;
  onMove: (key: string, s: number) => void;
}

/** Marks over the curve: dragged by pointer, or moved by the arrow keys; let go, they are where they are. */
function Handles({ plot, handles, scale, tick, onMove }: HandlesProps) {
  const [, setSize] = useState(0);
  const [held, setHeld] = useState<{ key: string; s: number } | null>(null);
  // The scales are known only once the plot has been drawn, and change with its size.
  useEffect(() => {
    const again = () => setSize((n) => n + 1);
    const timer = setTimeout(again, 60);
    const watch = new ResizeObserver(again);
    watch.observe(plot.root);
    return () => {
      clearTimeout(timer);
      watch.disconnect();
    };
  }, [plot, tick, handles]);
  const left = plot.over.offsetLeft;
  const top = plot.over.offsetTop;
  const [low, high] = [plot.scales["x"]?.min ?? 0, plot.scales["x"]?.max ?? 0];
  if (!(high > low)) return null;
  const within = (s: number) => Math.min(high, Math.max(low, s));
  const letGo = (h: Handle) => {
    if (held?.key === h.key && held.s !== h.s) onMove(h.key, held.s);
    setHeld(null);
  };
  const at = (clientX: number) =>
    within(plot.posToVal(clientX - plot.over.getBoundingClientRect().left, "x"));
  return (
    <>
      {handles.map((h, i) => {
        const s = held?.key === h.key ? held.s : h.s;
        const x = left + plot.valToPos(s, "x");
        const y = top + plot.valToPos(h.load * scale, "y");
        return (
          <button
            key={h.key}
            type="button"
            role="slider"
            aria-label={h.name}
            aria-valuemin={low}
            aria-valuemax={high}
            aria-valuenow={s}
            aria-valuetext={`${s.toFixed(2)} s`}
            className={`group absolute size-7 -translate-x-1/2 -translate-y-1/2 cursor-ew-resize touch-none
              focus:z-20`}
            style={{ left: x, top: y }}
            onPointerDown={(e) => {
              e.currentTarget.setPointerCapture(e.pointerId);
              setHeld({ key: h.key, s });
            }}
            onPointerMove={(e) => held?.key === h.key && setHeld({ key: h.key, s: at(e.clientX) })}
            onPointerUp={() => letGo(h)}
            onKeyDown={(e) => {
              const step = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
              if (step === undefined) return;
              e.preventDefault();
              setHeld({ key: h.key, s: within(s + (step * (high - low)) / (e.shiftKey ? 40 : 400)) });
            }}
            onKeyUp={() => letGo(h)}
            onBlur={() => letGo(h)}
          >
            <span className="mx-auto block size-3 rounded-full border-2 border-wood bg-paper" aria-hidden />
            <span
              className={`pointer-events-none absolute bg-paper/90 px-1 text-xs whitespace-nowrap
                ${x > 0.6 * (left + plot.over.clientWidth) ? "right-6" : "left-6"}
                ${held?.key === h.key ? "" : "hidden group-hover:block group-focus-visible:block"}`}
              style={{ top: i % 2 ? 14 : -8 }}
            >
              {h.name}, {s.toFixed(2)} s
            </span>
          </button>
        );
      })}
    </>
  );
}
