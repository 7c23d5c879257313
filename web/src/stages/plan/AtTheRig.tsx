/** What is settled of the break beforehand: which load is the strength, and how quickly it rises. */
import { Button } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { Line, type PlanProps } from "./common";

const PACES = [
  ["time", "reaches its peak in", "time", "s", ""],
  ["force", "is loaded with", "force", undefined, " a second"],
  ["travel", "is moved by", "length", undefined, " a second"],
] as const;

export function AtTheRig({ draft, catalogue, locked }: PlanProps) {
  const { document: d, change } = draft;
  const method = catalogue.methods.find((m) => m.key === d.method);
  const pace = d.pace ?? null;
  const kind = PACES.find(([key]) => key === pace?.kind);
  return (
    <>
      <p>
        The strength of a piece is{" "}
        <select
          aria-label="What is the strength"
          className="written max-w-full"
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
          className="written max-w-full"
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
        {method?.overlap_most != null && (
          <>
            {" "}
            An overlap over{" "}
            <QuantityField
              label="Most overlap in thicknesses"
              dimension="number"
              className="w-14"
              placeholder={String(method.overlap_most)}
              disabled={locked}
              value={d.overlap_most ?? null}
              onChange={(overlap_most) => change({ overlap_most })}
            />{" "}
            thicknesses is pointed out.
          </>
        )}
        {method?.bent && (
          <>
            {" "}
            The joint lies{" "}
            <QuantityField
              label="Joint off the middle of the span"
              dimension="length"
              className="w-20"
              needed
              disabled={locked}
              value={d.joint_off_mm ?? 0}
              onChange={(v) => v !== null && change({ joint_off_mm: v })}
            />{" "}
            off the middle of the span.
          </>
        )}
      </p>
      <Outcomes draft={draft} catalogue={catalogue} locked={locked} />
    </>
  );
}

/** Words of one's own for how a piece gives way, the best first; each stands for one of the usual ways. */
function Outcomes({ draft, catalogue, locked }: Pick<PlanProps, "draft" | "catalogue" | "locked">) {
  const { document: d, change } = draft;
  const outcomes = d.outcomes ?? [];
  const put = (next: typeof outcomes) => change({ outcomes: next });
  const set = (i: number, part: Partial<(typeof outcomes)[number]>) =>
    put(outcomes.map((o, j) => (i === j ? { ...o, ...part } : o)));
  return (
    <div>
      {outcomes.map((o, i) => (
        <p key={i}>
          {i === 0 ? "Best it gives way as" : "worse as"}{" "}
          <Line
            label={`Outcome ${i + 1}`}
            value={o.word}
            disabled={locked}
            placeholder="wood tears out, lifts clean …"
            className="w-56"
            onChange={(word) => set(i, { word })}
          />{" "}
          which is{" "}
          <select
            aria-label={`Outcome ${i + 1} stands for`}
            className="written max-w-full"
            disabled={locked}
            value={o.mode}
            onChange={(e) => set(i, { mode: e.target.value })}
          >
            {Object.entries(catalogue.failure_modes).map(([key, name]) => (
              <option key={key} value={key}>
                {name.toLowerCase()}
              </option>
            ))}
          </select>{" "}
          {!locked && (
            <Button look="quiet" onClick={() => put(outcomes.filter((_, j) => j !== i))}>
              leave out
            </Button>
          )}
        </p>
      ))}
      {!locked && outcomes.length < 9 && (
        <p className="text-sm leading-7">
          <Button look="quiet" onClick={() => put([...outcomes, { word: "", mode: "wood-deep" }])}>
            {outcomes.length ? "A further word" : "Words of my own for how it gives way"}
          </Button>
        </p>
      )}
    </div>
  );
}
