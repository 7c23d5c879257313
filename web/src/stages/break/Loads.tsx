/** A load as it is typed, and what a signal says of one that is not exact. */
import type { Schemas } from "../../api/client";
import { Notice } from "../../parts/controls";

type Proposal = NonNullable<Schemas["Pull"]["proposal"]>;

/** Why the load of a pull is not exact, and what it is then. */
export function Bound({
  why,
  proposal,
  text,
}: {
  why: string;
  proposal: Proposal;
  text: (n: number) => string;
}) {
  const { low_n: low, high_n: high } = proposal;
  const said = `${why.charAt(0).toUpperCase()}${why.slice(1)}.`;
  if (proposal.kind === "between" && low != null && high != null)
    return (
      <Notice>
        {said} The load lies between {text(low)} and {text(high)}.
      </Notice>
    );
  return <Notice>{said} The load is a lower limit.</Notice>;
}

export function Load({
  name,
  label,
  value,
  hint,
  onChange,
}: {
  name: string;
  label: string;
  value: string;
  hint: string;
  onChange: (v: string) => void;
}) {
  return (
    <input
      type="text"
      name={name}
      aria-label={label}
      className="written w-40 text-2xl font-semibold"
      autoComplete="off"
      value={value}
      placeholder={hint}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}
