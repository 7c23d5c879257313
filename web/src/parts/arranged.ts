/** Treatments in groups of a factor, in an order; labels shortened where all of a group agree. */
import type { Schemas } from "../api/client";

type View = Schemas["CompareView"];
type Treatment = Schemas["TreatmentResult"];

export interface Arranged {
  t: Treatment;
  label: string;
  /** Name of the group that begins here; empty within one. */
  heading: string;
}

export function arranged(view: View, by: string, bySize: boolean): Arranged[] {
  const size = (t: Treatment) => t.estimate?.value ?? -1;
  const own = bySize ? view.treatments.toSorted((a, b) => size(b) - size(a)) : [...view.treatments];
  const factor = view.factors.find((f) => f.key === by);
  if (!factor) return own.map((t) => ({ t, label: t.label, heading: "" }));
  const rest = view.factors.filter((f) => f !== factor && f.levels.length > 1);
  const groups = factor.levels.map((level) => ({
    name: level.name,
    own: own.filter((t) => view.cells[t.letter]?.[by] === level.id),
  }));
  groups.push({ name: "Beside the grid", own: own.filter((t) => !view.cells[t.letter]) });
  const short = (t: Treatment) => {
    const cell = view.cells[t.letter];
    const names = rest.map((f) => f.levels.find((l) => l.id === cell?.[f.key])?.name ?? "");
    return cell && names.length ? names.join(" · ") : t.label;
  };
  return groups.flatMap((g) => g.own.map((t, i) => ({ t, label: short(t), heading: i === 0 ? g.name : "" })));
}
