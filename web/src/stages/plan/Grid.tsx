/**
 * The grid of treatments: every combination as a cell to make or leave out, with its letter, its number
 * of pieces and the control. A large grid shows one of these at a time; dragging paints over cells.
 */
import { CountField } from "../../parts/CountField";
import { createContext, useContext, useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { SCROLLS } from "../../parts/faces";
import { counted, useUnits } from "../../parts/units";
import type { PlanProps } from "./common";
import { covers, gridCells, isSameCell, levelName, type Cell, type Document } from "./draft";

/** Cells beyond which a table helps nobody, and beyond which a cell shows one thing only. */
const MOST = 1024;
const LARGE = 24;

type Mode = "all" | "make" | "pieces" | "control";
const MODES: readonly (readonly [Mode, string])[] = [
  ["make", "made or not"],
  ["pieces", "how many"],
  ["control", "the control"],
];

interface Shared {
  document: Document;
  mode: Mode;
  locked: boolean;
  letters: ReadonlyMap<string, string>;
  make: (cell: Cell, on: boolean) => void;
  setOwn: (cell: Cell, count: number) => void;
  setControl: (cell: Cell) => void;
  /** A drag begins here, and does so to the cells that it crosses. The first one only follows the second. */
  begin: (cell: Cell, on: boolean) => void;
  paint: (cell: Cell) => void;
}

const GridContext = createContext<Shared | null>(null);

export function Grid(props: PlanProps) {
  const { draft, view, locked } = props;
  const { document: d, change } = draft;
  const units = useUnits();
  const [chosen, setChosen] = useState<Mode>("make");
  const last = d.factors.at(-1);
  const cells = useMemo(() => gridCells(d), [d]);
  const painting = useRef<{ from: Cell | null; on: boolean } | null>(null);
  const letters = useMemo(() => lettersOf(d, view.forecast.treatments), [d, view.forecast.treatments]);
  useEffect(() => {
    const stop = () => (painting.current = null);
    window.addEventListener("pointerup", stop);
    return () => window.removeEventListener("pointerup", stop);
  }, []);
  if (!last || d.factors.some((f) => !f.levels.length) || cells.length > MOST) return null;
  const isLarge = cells.length > LARGE;
  const rows = cells.filter((c) => c[last.key] === last.levels[0]?.id);
  const name = (key: string, id: string | undefined) => {
    const level = d.factors.find((f) => f.key === key)?.levels.find((l) => l.id === id);
    const field = props.catalogue.fields.find((x) => x.key === key);
    return level ? levelName(level, field, units) : "";
  };
  const others = d.factors.slice(0, -1);

  const make = (cell: Cell, on: boolean) =>
    change(({ dropped, control }) => ({
      // A pattern that covers more than this cell is written out before one of its cells is made again.
      dropped: on
        ? cells.filter((c) => !isSameCell(c, cell) && dropped.some((p) => covers(p, c)))
        : [...dropped.filter((c) => !isSameCell(c, cell)), cell],
      control: !on && isSameCell(control, cell) ? {} : control,
    }));
  const setOwn = (cell: Cell, n: number) => {
    const rest = d.extra_replicates.filter(([c]) => !isSameCell(c as Cell, cell));
    const extra_replicates = n > 0 && n !== d.replicates ? [[cell, Math.min(500, n)], ...rest] : rest;
    change({ extra_replicates } as Partial<typeof d>);
  };
  const shared: Shared = {
    document: d,
    mode: isLarge ? chosen : "all",
    locked,
    letters,
    make,
    setOwn,
    setControl: (cell) => change({ control: cell }),
    begin: (cell, on) => {
      painting.current = { from: cell, on };
    },
    paint: (cell) => {
      const drag = painting.current;
      if (!drag || (drag.from && isSameCell(drag.from, cell))) return;
      if (drag.from) make(drag.from, drag.on);
      make(cell, drag.on);
      painting.current = { from: null, on: drag.on };
    },
  };
  return (
    <GridContext value={shared}>
      {isLarge && !locked && (
        <p
          className="mt-2 flex flex-wrap items-center gap-x-4 text-sm leading-7"
          role="group"
          aria-label="Cells show"
        >
          <span className="text-faded">{counted(cells.length, "cell")}; they show</span>
          {MODES.map(([key, text]) => (
            <label key={key} className="flex items-center gap-1">
              <input
                type="radio"
                name="grid mode"
                checked={chosen === key}
                onChange={() => setChosen(key)}
                className="size-4"
              />
              {text}
            </label>
          ))}
        </p>
      )}
      <div
        className="my-2 overflow-x-auto leading-6"
        tabIndex={SCROLLS}
        role="region"
        aria-label="Grid of treatments"
      >
        <table className="border-collapse text-sm">
          <thead>
            <tr>
              <td />
              {last.levels.map((l) => (
                <th key={l.id} scope="col" className="head px-2 pb-1 text-left font-semibold">
                  {name(last.key, l.id)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={others.map((f) => row[f.key]).join()}>
                <th scope="row" className="head pr-3 text-left font-semibold">
                  {others.map((f) => name(f.key, row[f.key])).join(" · ")}
                </th>
                {last.levels.map((l) => {
                  const cell = { ...row, [last.key]: l.id };
                  const words = d.factors.map((f) => name(f.key, cell[f.key])).join(", ");
                  return <GridCell key={l.id} cell={cell} words={words} />;
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {!locked && d.extra_replicates.length > 0 && (
        <p className="text-sm">
          <Button look="quiet" onClick={() => change({ extra_replicates: [] })}>
            make {d.replicates} of all, without exception
          </Button>
        </p>
      )}
    </GridContext>
  );
}

/** The letters of the treatments, by the places of their levels. */
function lettersOf(
  d: Document,
  treatments: readonly Schemas["TreatmentView"][],
): ReadonlyMap<string, string> {
  const key = (places: readonly number[]) =>
    JSON.stringify(Object.fromEntries(d.factors.map((f, i) => [f.key, f.levels[places[i] ?? 0]?.id])));
  return new Map(treatments.flatMap((t) => (t.cell ? [[key(t.cell), t.letter] as const] : [])));
}

/** One combination: made or not, its letter, its number, and whether the others are held against it. */
function GridCell({ cell, words }: { cell: Cell; words: string }) {
  const shared = useContext(GridContext);
  if (!shared) return null;
  const { document: d, mode, locked, letters, make, setOwn, setControl } = shared;
  const isMade = !d.dropped.some((c) => covers(c, cell));
  const isControl = isSameCell(d.control, cell);
  const own = d.extra_replicates.find(([c]) => covers(c as Cell, cell))?.[1] as number | undefined;
  const shows = (what: Mode) => mode === "all" || mode === what;
  return (
    <td
      className={[
        "border border-rule align-top",
        mode === "all" ? "px-2 py-1" : "px-1.5 py-0.5",
        isMade ? "bg-sheet" : "",
        isControl ? "outline-2 -outline-offset-2 outline-spruce" : "",
      ].join(" ")}
      onPointerEnter={(e) => e.buttons === 1 && !locked && shared.paint(cell)}
      onPointerDown={(e) => {
        // A drag begins on a cell's ground or its tick; fields and the control keep their own presses.
        const on = e.target as HTMLElement;
        if (locked || !shows("make") || on.closest("input:not([type=checkbox])")) return;
        shared.begin(cell, !isMade);
      }}
    >
      <span className="flex items-center gap-2 select-none">
        {shows("make") && (
          <input
            type="checkbox"
            className={mode === "all" ? "size-6" : "size-5"}
            aria-label={`Make ${words}`}
            checked={isMade}
            disabled={locked}
            onChange={(e) => make(cell, e.target.checked)}
          />
        )}
        {isMade && <span className="font-mono font-semibold">{letters.get(JSON.stringify(cell))}</span>}
        {isMade && shows("pieces") && (
          <CountField
            label={`Pieces of ${words}`}
            className="w-12"
            disabled={locked}
            value={own ?? d.replicates}
            onChange={(n) => setOwn(cell, n)}
          />
        )}
        {isMade && mode !== "all" && mode !== "pieces" && own !== undefined && (
          <span className="text-faded">{own}</span>
        )}
        {isMade && mode === "control" && (
          <Control words={words} is={isControl} set={() => setControl(cell)} />
        )}
      </span>
      {mode === "all" && isMade && (
        <span className="flex items-center gap-1 text-faded">
          <Control words={words} is={isControl} locked={locked} set={() => setControl(cell)} />
          <span aria-hidden>control</span>
        </span>
      )}
      {mode === "all" && !isMade && <span className="text-faded">not made</span>}
    </td>
  );
}

function Control({
  words,
  is,
  locked,
  set,
}: {
  words: string;
  is: boolean;
  locked?: boolean;
  set: () => void;
}) {
  return (
    <input
      type="radio"
      name="control"
      className="size-6"
      aria-label={`Control: ${words}`}
      checked={is}
      disabled={locked}
      onChange={set}
    />
  );
}

/** Cells that cannot be, with their reason: left out by one press. */
export function LeaveOut({ draft, view, locked }: PlanProps) {
  const { document: d, change } = draft;
  if (locked) return null;
  return view.forecast.impossible.map((found) => (
    <p key={found.reason} className="my-1 border-l-4 border-notice pl-3 text-sm leading-6">
      {counted(found.cells.length, "treatment")} cannot be: {found.reason}.{" "}
      <Button onClick={() => change({ dropped: [...d.dropped, ...found.cells] })}>
        Leave {found.cells.length === 1 ? "it" : "them"} out
      </Button>
    </p>
  ));
}
