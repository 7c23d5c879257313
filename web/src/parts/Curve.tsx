/** A load curve over time, live or recorded. */
import { useEffect, useRef, type RefObject } from "react";
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
  height: number;
}

function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();
}

export default function Curve({ points, tick, window: seconds, marks = [], gaps = [], height }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | null>(null);
  const units = useUnits();
  const symbol = units.symbol("force");
  const scale = units.convert(1, "force");
  const lines = useRef(marks);
  const holes = useRef(gaps);

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
    const watch = new ResizeObserver(() => made.setSize({ width: element.clientWidth, height }));
    watch.observe(element);
    return () => {
      watch.disconnect();
      made.destroy();
      plot.current = null;
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
    <div
      ref={holder}
      className="w-full overflow-hidden"
      style={{ height }}
      role="img"
      aria-label={`Load over time, ${symbol}`}
    />
  );
}
