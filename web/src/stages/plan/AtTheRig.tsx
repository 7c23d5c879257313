/** What is settled of the break beforehand: which load is the strength, and how quickly it rises. */
import { QuantityField } from "../../parts/QuantityField";
import type { PlanProps } from "./common";

const PACES = [
  ["time", "reaches its peak in", "time", "s", ""],
  ["force", "is loaded with", "force", undefined, " a second"],
  ["travel", "is moved by", "length", undefined, " a second"],
] as const;

export function AtTheRig({ draft, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const pace = d.pace ?? null;
  const kind = PACES.find(([key]) => key === pace?.kind);
  return (
    <p>
      The strength of a piece is{" "}
      <select
        aria-label="What is the strength"
        className="written"
        disabled={locked}
        value={d.strength ?? "peak"}
        onChange={(e) => change({ strength: e.target.value })}
      >
        {Object.entries(catalogue.strengths).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
      . A piece{" "}
      <select
        aria-label="Pace of loading"
        className="written"
        disabled={locked}
        value={pace?.kind ?? ""}
        onChange={(e) =>
          change({
            pace: e.target.value
              ? { kind: e.target.value as "time", low: e.target.value === "time" ? 30 : 1, high: 90 }
              : null,
          })
        }
      >
        <option value="">is loaded at any pace</option>
        {PACES.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>{" "}
      {pace && kind && (
        <>
          {(["low", "high"] as const).map((end) => (
            <span key={end}>
              {end === "high" && " to "}
              <QuantityField
                label={end === "low" ? "Pace from" : "Pace to"}
                dimension={kind[2]}
                unit={kind[3]}
                className="w-20"
                disabled={locked}
                value={pace[end]}
                needed
                onChange={(v) => v !== null && change({ pace: { ...pace, [end]: v } })}
              />
            </span>
          ))}
          {kind[4]}
        </>
      )}
      ; others are flagged.
    </p>
  );
}
