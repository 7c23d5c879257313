/** What several pieces are made as: what to cut and to write on it, and the pieces that come out of it. */
import type { Schemas } from "../../api/client";
import { Code } from "../../parts/controls";

export function Parents({ rows }: { rows: readonly Schemas["ParentRow"][] }) {
  if (!rows.length) return null;
  const first = rows[0]!;
  return (
    <section aria-label={`${first.kind}s`}>
      <h2 className="text-lg font-bold">
        {rows.length} {first.kind.toLowerCase()}
        {rows.length === 1 ? "" : "s"}, each {first.blanks}
      </h2>
      <ul className="mt-1 max-h-80 overflow-y-auto print:max-h-none">
        {rows.map((p) => (
          <li key={p.code} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-1">
            <span className="w-24 shrink-0">
              {p.kind.split(" ")[0]} {p.number}
            </span>
            <span className="w-32 shrink-0 font-mono text-sm">{p.labels.join("  ")}</span>
            <span className="min-w-0 wrap-anywhere">
              <span className="font-mono">{p.treatments.length > 3 ? "" : p.treatments.join(", ")}</span>{" "}
              {p.label}
            </span>
            <span className="ml-auto text-sm text-faded">
              {p.sawn ? "after the saw: " : ""}
              {p.pieces.slice(0, 8).map((code) => (
                <span key={code} className="mr-2">
                  <Code>{code}</Code>
                </span>
              ))}
              {p.pieces.length > 8 && `and ${p.pieces.length - 8} more`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
