/** A question rehearsed before wood is cut: how often its answer would be right, and one made-up answer. */
import { useState } from "react";
import { Problem } from "../../api/client";
import { useRehearsal } from "../../api/rehearsal";
import { Button, ProblemNote } from "../../parts/controls";
import { AnswerTable } from "../compare/MainAnswer";

interface RehearseProps {
  batch: number;
  /** The plan's version: another plan is rehearsed anew. */
  version: number;
  /** Its place among the questions. */
  place: number;
  number: number;
  /** The levels of which one may be supposed to differ. */
  levels: readonly (readonly [string, string])[];
}

export function Rehearse({ batch, version, place, number, levels }: RehearseProps) {
  const [open, setOpen] = useState(false);
  const [level, setLevel] = useState("");
  const [percent, setPercent] = useState(-20);
  const { data, error, isFetching } = useRehearsal(batch, version, open, {
    question: place,
    level,
    percent: level ? percent : null,
  });
  if (!open)
    return (
      <Button
        look="quiet"
        className="py-0 text-sm"
        aria-label={`Rehearse it, ${number}`}
        onClick={() => setOpen(true)}
      >
        Rehearse it
      </Button>
    );
  const total = data ? Math.max(1, data.runs) : 1;
  return (
    <section aria-label={`Rehearsal ${number}`} className="mt-1 border-l-4 border-spruce pl-3 text-sm">
      <p className="leading-8">
        Suppose{" "}
        <select
          aria-label={`Supposed to differ ${number}`}
          className="written max-w-52"
          value={level}
          onChange={(e) => setLevel(e.target.value)}
        >
          <option value="">what the plan expects</option>
          {levels.map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>
        {level && (
          <>
            {" "}
            holds{" "}
            <select
              aria-label={`By how much ${number}`}
              className="written"
              value={percent}
              onChange={(e) => setPercent(Number(e.target.value))}
            >
              {[-50, -30, -20, -10, 10, 20, 30, 50].map((p) => (
                <option key={p} value={p}>
                  {Math.abs(p)} % {p < 0 ? "less" : "more"}
                </option>
              ))}
            </select>
          </>
        )}
        .{" "}
        <Button look="quiet" className="py-0" onClick={() => setOpen(false)}>
          close
        </Button>
      </p>
      <ProblemNote problem={error instanceof Problem ? error : null} />
      {isFetching && !data && <p className="text-faded">Breaking it 200 times …</p>}
      {data && (
        <div aria-live="polite">
          <p className="font-semibold">{data.text}</p>
          <p className="text-faded">{data.supposed}</p>
          <div className="my-1 flex h-3 max-w-md overflow-hidden rounded-sm" aria-hidden>
            <span className="bg-spruce" style={{ width: `${(100 * data.right) / total}%` }} />
            <span className="bg-rule" style={{ width: `${(100 * data.open) / total}%` }} />
            <span className="bg-alarm" style={{ width: `${(100 * data.wrong) / total}%` }} />
          </div>
          <details>
            <summary className="cursor-pointer">One of them, as the answer would look</summary>
            <div className="mt-1 border-2 border-dashed border-notice p-2">
              <p className="font-bold text-notice uppercase">Made up: no piece was broken</p>
              <p className="font-semibold">{data.example.text}</p>
              <AnswerTable answer={data.example} number={`rehearsed ${number}, made up`} />
              <p className="font-bold text-notice uppercase">Made up: not data</p>
            </div>
          </details>
        </div>
      )}
    </section>
  );
}
