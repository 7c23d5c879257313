/** The pieces in their random order: what is broken and how, and what is still to come. */
import type { Schemas } from "../../api/client";
import { Code } from "../../parts/controls";
import { MarkIcon, MARK_NAMES } from "../../parts/marks";
import { Sheet, type Column } from "../../parts/Sheet";
import { clock, useUnits, type Units } from "../../parts/units";

type Row = Schemas["BreakRow"];

interface Props {
  view: Schemas["BreakView"];
  current: string | null;
  onPick: (code: string) => void;
  onCorrect: (code: string) => void;
}

/** An observation in words: a bound says that it is one. */
export function outcome(units: Units, kind: string | null, low: number | null, high: number | null, dimension: string, decimals: number): string {
  if (kind === null) return "";
  const text = (v: number | null) => (v === null ? "?" : units.number(v, dimension, decimals));
  if (kind === "at_least") return `≥ ${text(low)}`;
  if (kind === "between") return `${text(low)} to ${text(high)}`;
  if (kind === "fell_apart") return "fell apart";
  if (kind === "void") return "void";
  if (kind === "seen") return "opened";
  if (kind === "held") return `held ${text(low)}`;
  return text(low);
}

export function Queue({ view, current, onPick, onCorrect }: Props) {
  const units = useUnits();
  const columns: Column<Row>[] = [
    { key: "order", head: "No.", width: "2.5rem", show: (r) => <span className="text-faded">{r.break_order}</span> },
    {
      key: "code",
      head: "Piece",
      width: "5rem",
      show: (r) => (
        <button
          type="button"
          className={`rounded-sm px-1 underline-offset-4 hover:underline ${r.code === current ? "bg-spruce-pale" : ""}`}
          title={r.kind ? "Correct this result" : "Take this piece next"}
          onClick={() => (r.kind ? onCorrect(r.code) : onPick(r.code))}
        >
          <Code>{r.code}</Code>
        </button>
      ),
    },
    { key: "treatment", head: "Treatment", width: "minmax(9rem, 1.2fr)", show: (r) => <><span className="mr-2 font-mono">{r.treatment}</span>{r.label}{r.part === "trial" && ", trial"}</> },
    { key: "load", head: `Load, ${units.symbol("force")}`, width: "8rem", show: (r) => <span className="tabular-nums">{outcome(units, r.kind, r.low_n, r.high_n, "force", 0)}</span> },
    {
      key: "strength",
      head: `${view.figure_name}, ${units.symbol("stress")}`,
      width: "9rem",
      show: (r) => <span className="tabular-nums">{r.kind === "void" || r.kind === "seen" || r.kind === "fell_apart" ? "" : outcome(units, r.kind, r.figure_low, r.figure_high, "stress", 2)}{r.kind && !r.measured && r.kind !== "void" ? " *" : ""}</span>,
    },
    { key: "mode", head: "Gave way", width: "minmax(10rem, 1fr)", show: (r) => r.failure_mode && <><MarkIcon mode={r.failure_mode} /> {MARK_NAMES[r.failure_mode]}</> },
    { key: "wood", head: "Wood, %", width: "4.5rem", show: (r) => <span className="tabular-nums">{r.wood_failure_pct ?? ""}</span> },
    { key: "note", head: "Note", width: "minmax(8rem, 1fr)", show: (r) => <span className="text-faded">{r.kind ? r.reason || r.note : r.ready ? `${r.ready}${r.due_at ? `, due ${clock(r.due_at)}` : ""}` : ""}</span> },
  ];
  return <Sheet label="Pieces in the order to break them" rows={view.rows} columns={columns} id={(r) => r.code} maxHeight="min(46vh, 30rem)" />;
}
