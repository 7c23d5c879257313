/**
 * A table to type into like a sheet of paper: arrow keys and Enter move, a block pasted from a
 * spreadsheet fills downward, each cell is saved when it is left. Of a long one only the rows in sight are
 * in the page, so a thousand of them scroll as smoothly as ten.
 */
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState, type ReactNode } from "react";
import { Explained } from "./Explained";
import { SCROLLS } from "./faces";
import { usePrinting } from "./printing";

/** So many rows are all in the page: the browser's own search finds each of them. */
const FEW = 100;

export interface Column<Row> {
  key: string;
  head: ReactNode;
  width: string;
  /** What a read-only cell shows. */
  show?: (row: Row) => ReactNode;
  /** What a cell to type into holds, and its hint. */
  value?: (row: Row) => { text: string; hint: string };
  label?: (row: Row) => string;
}

export interface Edit {
  id: string;
  key: string;
  text: string;
}

interface Props<Row> {
  rows: readonly Row[];
  columns: readonly Column<Row>[];
  id: (row: Row) => string;
  onEdits?: (edits: Edit[]) => void;
  wrong?: (id: string, key: string) => string | undefined;
  label: string;
  rowHeight?: number;
  maxHeight?: string;
}

export function Sheet<Row>({
  rows,
  columns,
  id,
  onEdits,
  wrong,
  label,
  rowHeight = 40,
  maxHeight = "min(62vh, 44rem)",
}: Props<Row>) {
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- no memoised children
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: rows.length <= FEW ? FEW : 8,
  });
  const printing = usePrinting();
  const shown = printing
    ? rows.map((_, index) => ({ index, start: index * rowHeight }))
    : virtual.getVirtualItems();
  const typed = columns.filter((c) => c.value);
  const grid = { gridTemplateColumns: columns.map((c) => c.width).join(" ") };

  function focus(row: number, key: string) {
    if (row < 0 || row >= rows.length) return;
    virtual.scrollToIndex(row);
    const find = () =>
      scroller.current?.querySelector<HTMLInputElement>(`input[data-row="${row}"][data-key="${key}"]`);
    const input = find();
    if (input) {
      input.focus();
      input.select();
    } else setTimeout(() => find()?.focus(), 50);
  }

  function move(event: React.KeyboardEvent<HTMLInputElement>, row: number, key: string) {
    const input = event.currentTarget;
    const place = typed.findIndex((c) => c.key === key);
    const side = (step: number) => typed[place + step]?.key;
    const atEnd = input.selectionStart === input.value.length;
    const atStart =
      input.selectionEnd === 0 || (input.selectionStart === 0 && input.selectionEnd === input.value.length);
    let target: [number, string] | undefined;
    if (event.key === "ArrowDown" || (event.key === "Enter" && !event.shiftKey)) target = [row + 1, key];
    if (event.key === "ArrowUp" || (event.key === "Enter" && event.shiftKey)) target = [row - 1, key];
    if (event.key === "ArrowRight" && atEnd && side(1)) target = [row, side(1)!];
    if (event.key === "ArrowLeft" && atStart && side(-1)) target = [row, side(-1)!];
    if (!target) return;
    event.preventDefault();
    if (target[0] >= rows.length || target[0] < 0) input.blur();
    else focus(...target);
  }

  function paste(event: React.ClipboardEvent<HTMLInputElement>, row: number, key: string) {
    const lines = event.clipboardData.getData("text").replace(/\r/g, "").replace(/\n$/, "").split("\n");
    if (lines.length === 1 && !lines[0]!.includes("\t")) return;
    event.preventDefault();
    const place = typed.findIndex((c) => c.key === key);
    const edits = lines.flatMap((line, i) =>
      line.split("\t").flatMap((text, j) => {
        const target = rows[row + i];
        const column = typed[place + j];
        return target && column && text.trim()
          ? [{ id: id(target), key: column.key, text: text.trim() }]
          : [];
      }),
    );
    onEdits?.(edits);
  }

  return (
    <div
      ref={scroller}
      role="table"
      aria-label={label}
      aria-rowcount={rows.length + 1}
      tabIndex={SCROLLS}
      className="sheet relative overflow-auto"
      style={{ maxHeight: printing ? "none" : maxHeight }}
    >
      <div
        role="rowgroup"
        className="sticky top-0 z-10 min-w-max border-b border-strong-rule bg-sheet print:min-w-0"
      >
        <div role="row" aria-rowindex={1} className="grid items-end gap-x-3 px-3 py-1.5" style={grid}>
          {columns.map((c) => (
            <span key={c.key} role="columnheader" className="head">
              {c.head}
            </span>
          ))}
        </div>
      </div>
      <div
        role="rowgroup"
        className="relative min-w-max print:min-w-0"
        style={printing ? {} : { height: rows.length * rowHeight }}
      >
        {shown.map((item) => {
          const row = rows[item.index]!;
          const rowId = id(row);
          return (
            <div
              key={rowId}
              role="row"
              aria-rowindex={item.index + 2}
              className={`${printing ? "" : "absolute inset-x-0"} grid items-center gap-x-3 border-b
                border-rule px-3`}
              style={{
                ...grid,
                ...(printing
                  ? { minHeight: rowHeight }
                  : { height: rowHeight, transform: `translateY(${item.start}px)` }),
              }}
            >
              {columns.map((c) => (
                <span key={c.key} role="cell" className="min-w-0 truncate">
                  {c.value ? (
                    <Cell
                      name={c.label?.(row) ?? c.key}
                      row={item.index}
                      column={c.key}
                      {...c.value(row)}
                      wrong={wrong?.(rowId, c.key)}
                      onKeyDown={(e) => move(e, item.index, c.key)}
                      onPaste={(e) => paste(e, item.index, c.key)}
                      onCommit={(text) => onEdits?.([{ id: rowId, key: c.key, text }])}
                    />
                  ) : (
                    c.show?.(row)
                  )}
                </span>
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}

interface CellProps {
  name: string;
  row: number;
  column: string;
  text: string;
  hint: string;
  wrong: string | undefined;
  onKeyDown: (event: React.KeyboardEvent<HTMLInputElement>) => void;
  onPaste: (event: React.ClipboardEvent<HTMLInputElement>) => void;
  onCommit: (text: string) => void;
}

function Cell({ name, row, column, text, hint, wrong, onKeyDown, onPaste, onCommit }: CellProps) {
  const [draft, setDraft] = useState<string | null>(null);
  const input = (
    <input
      aria-label={name}
      data-row={row}
      data-key={column}
      className="written w-full"
      value={draft ?? text}
      placeholder={hint}
      autoComplete="off"
      aria-invalid={wrong ? true : undefined}
      onChange={(e) => setDraft(e.target.value)}
      onFocus={(e) => e.target.select()}
      onBlur={() => {
        if (draft !== null && draft.trim() && (draft !== text || wrong)) onCommit(draft);
        setDraft(null);
      }}
      onKeyDown={(e) => {
        if (e.key === "Escape") setDraft(null);
        onKeyDown(e);
      }}
      onPaste={onPaste}
    />
  );
  if (!wrong) return input;
  return (
    <span className="flex items-center">
      {input}
      <Explained label={`what is wrong with ${name}`} className="px-1 font-bold text-alarm" why={wrong}>
        ?
      </Explained>
    </span>
  );
}
