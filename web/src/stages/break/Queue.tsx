/** The pieces in their random order: what is broken and how, and what is still to come. */
import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { Code } from "../../parts/controls";
import { MarkIcon, MARK_NAMES } from "../../parts/marks";
import { Sheet, type Column } from "../../parts/Sheet";
import { Explained, Flags } from "../../parts/Explained";
import { clock, useUnits, type Units } from "../../parts/units";

type Row = Schemas["BreakRow"];

interface Props {
  view: Schemas["BreakView"];
  /** Whether treatments are kept from whoever breaks them. */
  blind: boolean;
  current: string | null;
  onPick: (code: string) => void;
  onCorrect: (code: string) => void;
}

/** What was seen, where it is no load. */
const WITHOUT_LOAD: Record<string, string> = { fell_apart: "fell apart", seen: "opened" };

/**
 * A load or a figure in words, a bound as such: by what was observed, or by what that says for the
 * question.
 */
function bounds(
  units: Units,
  low: number | null,
  high: number | null,
  dimension: string,
  doubt: number | null,
) {
  const text = (v: number) => units.number(v, dimension, doubt);
  if (low !== null && high !== null && low !== high) return `${text(low)} to ${text(high)}`;
  if (low !== null) return high === null ? `≥ ${text(low)}` : text(low);
  return high === null ? "" : `≤ ${text(high)}`;
}

function load(units: Units, r: Row): string {
  if (r.kind === null) return "";
  const seen = WITHOUT_LOAD[r.kind];
  if (seen) return seen;
  const exact = ["exact", "held", "proof"].includes(r.kind) ? r.low_n : r.high_n;
  const text = bounds(units, r.low_n, exact, "force", r.resolution_n);
  const sign = r.details.how === "about" || r.details.how === "by eye" ? "≈ " : "";
  if (r.kind === "proof") return `proof ${text || "load"}, ${r.details.ended}`;
  return r.kind === "held" ? `held ${text}` : sign + text;
}

const remark = (r: Row, elsewhere: string | undefined): string => {
  if (r.kind)
    return r.kind === "void" ? r.note : [r.reason || r.note, r.details_text].filter(Boolean).join("; ");
  if (r.ready) return `${r.ready}${r.due_at ? `, due ${clock(r.due_at)}` : ""}`;
  return elsewhere ? `on another screen (${elsewhere})` : "";
};

/** A number that does not count stays to be read, hollow, with its reason. */
function Hollow({ row, children }: { row: Row; children: ReactNode }) {
  if (row.kind !== "void") return <span className="tabular-nums">{children}</span>;
  return (
    <Explained className="text-faded" why={`Does not count: ${row.reason || "no reason was given"}.`}>
      <span className="tabular-nums">({children || "void"})</span>
    </Explained>
  );
}

export function Queue({ view, blind, current, onPick, onCorrect }: Props) {
  const units = useUnits();
  const columns: Column<Row>[] = [
    {
      key: "order",
      head: "No.",
      width: "2.5rem",
      show: (r) => <span className="text-faded">{r.break_order}</span>,
    },
    {
      key: "code",
      head: "Piece",
      width: view.rows.some((r) => r.parent || r.name) ? "11rem" : "5rem",
      show: (r) => (
        <>
          <button
            type="button"
            className={`rounded-sm px-1 underline-offset-4 hover:underline aria-[current]:bg-spruce-pale`}
            aria-current={r.code === current ? "step" : undefined}
            aria-label={r.kind ? `Correct ${r.code}` : `Take ${r.code} next`}
            onClick={() => (r.kind ? onCorrect(r.code) : onPick(r.code))}
          >
            <Code>{r.code}</Code>
          </button>
          {r.name && <span className="ml-1 text-sm text-faded">{r.name}</span>}
          {r.parent && <span className="ml-1 text-sm text-faded">{r.parent.split(" (")[0]}</span>}
        </>
      ),
    },
    {
      key: "treatment",
      head: "Treatment",
      width: "minmax(9rem, 1.2fr)",
      show: (r) => (
        <>
          {!blind && (
            <>
              <span className="mr-2 font-mono">{r.treatment}</span>
              {r.label}
            </>
          )}
          {r.part === "trial" && ", trial"}
        </>
      ),
    },
    {
      key: "load",
      head: `Load, ${units.symbol("force")}`,
      width: "8rem",
      show: (r) => <Hollow row={r}>{load(units, r)}</Hollow>,
    },
    {
      key: "strength",
      head: `${view.figure_name}, ${units.symbol(view.figure_dimension)}`,
      width: "9rem",
      show: (r) =>
        r.figure_low === null && r.figure_high === null ? null : (
          <Hollow row={r}>
            {r.kind !== "fell_apart" &&
              bounds(units, r.figure_low, r.figure_high, view.figure_dimension, r.uncertainty)}
            {r.kind && !r.measured && r.figure_low !== null && (
              <Explained why="By its nominal sizes: it was not measured."> *</Explained>
            )}
          </Hollow>
        ),
    },
    {
      key: "mode",
      head: "Gave way",
      width: "minmax(10rem, 1fr)",
      show: (r) =>
        r.failure_mode && (
          <>
            <MarkIcon mode={r.failure_mode} /> {r.shares_text || MARK_NAMES[r.failure_mode]}
          </>
        ),
    },
    {
      key: "wood",
      head: "Wood, %",
      width: "4.5rem",
      show: (r) => <span className="tabular-nums">{r.wood_failure_pct ?? ""}</span>,
    },
    {
      key: "note",
      head: "Note",
      width: "minmax(10rem, 1.4fr)",
      show: (r) => (
        <span className="text-faded">
          <Flags items={r.flags} of={r.code} /> {remark(r, view.elsewhere[r.code])}
        </span>
      ),
    },
  ];
  return (
    <Sheet
      label="Pieces in the order to break them"
      rows={view.rows}
      columns={columns}
      id={(r) => r.code}
      maxHeight="min(46vh, 30rem)"
    />
  );
}
