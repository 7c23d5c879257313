/**
 * Labels for all halves, to print on sheets: code, treatment (not on blind ones), board, and a 2D code
 * for a scanner.
 */
import { useState } from "react";
import { Link, useParams } from "react-router";
import { useLabels } from "../../api/queries";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { Problem } from "../../api/client";

export default function Labels() {
  const { id } = useParams();
  const [blind, setBlind] = useState(false);
  const { data, error } = useLabels(Number(id), blind);
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the labels" />;
  return (
    <>
      <div className="no-print mb-4 flex flex-wrap items-center gap-x-6 gap-y-2">
        <h1 className="text-2xl font-bold">Labels</h1>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="size-5"
            checked={blind}
            onChange={(e) => setBlind(e.target.checked)}
          />
          Blind: do not show the treatment
        </label>
        <Button look="main" onClick={() => window.print()}>
          Print
        </Button>
        <Link className="text-spruce underline underline-offset-4" to={`/batch/${id}/cut`}>
          Back to the cut sheet
        </Link>
      </div>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-2 print:grid-cols-4">
        {data.map((l) => (
          <li key={l.text} className="sheet flex break-inside-avoid items-center gap-2 p-1">
            <svg
              viewBox={`0 0 ${l.symbol.size} ${l.symbol.size}`}
              className="size-16 shrink-0 bg-white"
              role="img"
              aria-label={`2D code of ${l.text}`}
            >
              <path d={l.symbol.path} />
            </svg>
            <span className="min-w-0">
              <span className="block font-mono text-lg font-semibold">{l.text}</span>
              {l.treatment && (
                <span className="block text-sm wrap-anywhere">
                  <span className="font-mono">{l.treatment}</span> {l.what}
                </span>
              )}
              {l.board && (
                <span className="block truncate text-sm text-faded">
                  {l.board}
                  {l.wood && `, ${l.wood}`}
                </span>
              )}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}
