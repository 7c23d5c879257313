/** How the face gave way in several places: shares by mode and member, that make 100 %. */
import { Button } from "../../parts/controls";
import type { Share } from "./judgement";

interface Props {
  shares: readonly Share[];
  modes: readonly (readonly string[])[];
  onChange: (shares: Share[]) => void;
}

export const totalOf = (shares: readonly Share[]): number =>
  shares.reduce((sum, s) => sum + (Number(s.pct) || 0), 0);

export function Shares({ shares, modes, onChange }: Props) {
  const parts = modes.filter(([key]) => key !== "mixed");
  const put = (n: number, change: Partial<Share>) =>
    onChange(shares.map((s, i) => (i === n ? { ...s, ...change } : s)));
  const total = totalOf(shares);
  const add = () =>
    onChange([
      ...shares,
      {
        mode: parts[shares.length % parts.length]?.[0] ?? "",
        member: "",
        pct: String(Math.max(0, 100 - total)),
      },
    ]);
  return (
    <div role="group" aria-label="Shares of the face" className="space-y-1 text-sm">
      {shares.map((s, n) => (
        <p key={n} className="flex flex-wrap items-baseline gap-x-2">
          <input
            type="text"
            inputMode="numeric"
            aria-label={`Share ${n + 1}, %`}
            className="written w-14 text-right"
            value={s.pct}
            onChange={(e) => put(n, { pct: e.target.value })}
          />
          %
          <select
            aria-label={`How share ${n + 1} gave way`}
            className="written"
            value={s.mode}
            onChange={(e) => put(n, { mode: e.target.value })}
          >
            {parts.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
          of
          <select
            aria-label={`Member of share ${n + 1}`}
            className="written"
            value={s.member}
            onChange={(e) => put(n, { member: e.target.value as Share["member"] })}
          >
            <option value="">the joint</option>
            {["A", "B", "C"].map((m) => (
              <option key={m} value={m}>
                member {m}
              </option>
            ))}
          </select>
          <Button look="quiet" onClick={() => onChange(shares.filter((_, i) => i !== n))}>
            not that
          </Button>
        </p>
      ))}
      <p className="flex flex-wrap items-baseline gap-x-3">
        <Button onClick={add}>{shares.length ? "Another share" : "It gave way in several places"}</Button>
        {shares.length > 0 && (
          <span className={total === 100 ? "text-faded" : "text-alarm"} role="status">
            together {total} %{total !== 100 && ": they must make 100 %"}
          </span>
        )}
      </p>
    </div>
  );
}
