/** A rig's calibration: known weights against what is shown. */
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { clock, unitOfMass, useUnits } from "../../parts/units";

interface Props {
  shop: Schemas["ShopView"];
  unit: string;
  rows: Schemas["KnownIn"][] | null;
  onChange: (rows: Schemas["KnownIn"][] | null) => void;
}

/** Known weights against what is shown: the line through them, and how far each is off it. */
export function KnownWeights({ shop, unit, rows, onChange }: Props) {
  const units = useUnits();
  const calibration = shop.rig?.set_up.instrument?.calibration;
  const line = shop.rig_state?.line;
  const put = (n: number, change: Partial<Schemas["KnownIn"]>) =>
    onChange((rows ?? []).map((r, k) => (k === n ? { ...r, ...change } : r)));
  return (
    <details className="my-1">
      <summary className="cursor-pointer text-faded">
        Calibration{calibration ? ` of ${clock(calibration.at)}` : ": none"}
      </summary>
      {line && calibration && (
        <>
          <table className="my-1 text-sm">
            <thead>
              <tr className="head text-left">
                <th className="pr-6">Known</th>
                <th>Off the line</th>
              </tr>
            </thead>
            <tbody>
              {calibration.points.map(([known], n) => (
                <tr key={n} className="border-t border-rule tabular-nums">
                  <td className="pr-6">{units.typed(known, "force")}</td>
                  <td>{units.text(line.residuals_n[n], "force")}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="text-sm text-faded">
            × {line.factor.toFixed(4)}
            {line.offset_n !== 0 && ` and ${units.text(line.offset_n, "force")}`}
            {line.scatter_n !== null &&
              `, leaving ${units.text(line.scatter_n, "force")} open (standard deviation)`}
            {calibration.person && `; by ${calibration.person}`}.{" "}
            <Button look="quiet" onClick={() => onChange([])}>
              take it off
            </Button>{" "}
            Another lever, piston or arm takes it off too: hang the weights again.
          </p>
        </>
      )}
      <ol>
        {(rows ?? []).map((r, n) => (
          <li key={n} className="flex flex-wrap items-baseline gap-x-2 leading-10">
            <input
              aria-label={`Known weight ${n + 1}`}
              className="written w-28"
              placeholder="25 kg"
              value={r.known}
              onChange={(e) => put(n, { known: e.target.value })}
            />
            shows
            <input
              aria-label={`Shown for known weight ${n + 1}`}
              className="written w-28"
              placeholder={unitOfMass(unit)}
              value={r.shown}
              onChange={(e) => put(n, { shown: e.target.value })}
            />
          </li>
        ))}
      </ol>
      {rows?.length === 0 && <p className="text-sm">Saved so, it has no calibration.</p>}
      <p className="flex gap-4">
        <Button onClick={() => onChange([...(rows ?? []), { known: "", shown: "" }])}>
          Another known weight
        </Button>
        {rows !== null && (
          <Button look="quiet" onClick={() => onChange(null)}>
            leave it as it was
          </Button>
        )}
      </p>
    </details>
  );
}
