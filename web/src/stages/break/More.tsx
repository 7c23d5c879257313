/** What else is told of a reading: how it was read, the stages, which way the piece was pulled. */
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { counted } from "../../parts/units";
import type { Judgement, Stage } from "./judgement";

interface Props {
  judged: Judgement;
  view: Schemas["BreakView"];
  onChange: (part: Partial<Judgement>) => void;
}

export function More({ judged, view, onChange }: Props) {
  const said = [
    judged.how && view.hows[judged.how],
    judged.stages.length > 0 && counted(judged.stages.length, "stage"),
    judged.direction,
    judged.offLine && "off its middle",
    judged.side,
    judged.tool,
  ].filter(Boolean);
  const words = (key: "offLine" | "side" | "tool", label: string, hint: string, width: string) => (
    <input
      type="text"
      aria-label={label}
      className={`written ${width}`}
      placeholder={hint}
      value={judged[key]}
      onChange={(e) => onChange({ [key]: e.target.value })}
    />
  );
  return (
    <details className="text-sm">
      <summary className="cursor-pointer text-faded">
        How it was read, pulled and gave way{said.length > 0 && `: ${said.join(", ")}`}
      </summary>
      <p className="leading-9">
        {!view.loadless && (
          <>
            Read{" "}
            <select
              aria-label="How the load was read"
              className="written"
              value={judged.how}
              onChange={(e) => onChange({ how: e.target.value })}
            >
              {Object.entries(view.hows).map(([key, name]) => (
                <option key={key} value={key}>
                  {name}
                </option>
              ))}
            </select>
            ; the line of pull ran {words("offLine", "Off the middle by", "through the middle", "w-36")} off
            the middle of the face;{" "}
          </>
        )}
        a corner was{" "}
        <select
          aria-label="Direction of the load"
          className="written"
          value={judged.direction}
          onChange={(e) => onChange({ direction: e.target.value as Judgement["direction"] })}
        >
          <option value="">not turned</option>
          {view.directions.map((d) => (
            <option key={d} value={d}>
              {{ opening: "opened", closing: "closed" }[d] ?? d}
            </option>
          ))}
        </select>
        ; pried from {words("side", "Pried from the side", "which side", "w-28")} with{" "}
        {words("tool", "Pried with", "which tool", "w-28")}.
      </p>
      <Stages stages={judged.stages} onChange={(stages) => onChange({ stages })} />
    </details>
  );
}

/** Crushed, then pulled halfway, then snapped: in their order, with the loads that are known. */
function Stages({ stages, onChange }: { stages: readonly Stage[]; onChange: (s: Stage[]) => void }) {
  const set = (i: number, part: Partial<Stage>) =>
    onChange(stages.map((s, j) => (i === j ? { ...s, ...part } : s)));
  return (
    <div>
      {stages.map((s, i) => (
        <p key={i} className="leading-9">
          {i === 0 ? "First it" : "then it"}{" "}
          <input
            type="text"
            aria-label={`Stage ${i + 1}`}
            className="written w-52"
            placeholder="crushed, pulled halfway, snapped …"
            value={s.what}
            onChange={(e) => set(i, { what: e.target.value })}
          />{" "}
          at{" "}
          <input
            type="text"
            aria-label={`Load of stage ${i + 1}`}
            className="written w-28"
            placeholder="load, if known"
            value={s.load}
            onChange={(e) => set(i, { load: e.target.value })}
          />{" "}
          <Button look="quiet" onClick={() => onChange(stages.filter((_, j) => j !== i))}>
            leave out
          </Button>
        </p>
      ))}
      <Button look="quiet" onClick={() => onChange([...stages, { what: "", load: "" }])}>
        {stages.length ? "and then" : "It gave way in stages"}
      </Button>
    </div>
  );
}
