/**
 * What is typed of how a piece ended, and how it is sent: a new reading whole, a correction only by what
 * changed.
 */
import type { Schemas } from "../../api/client";
import type { Units } from "../../parts/units";

/** Kinds as they are chosen: "at most" is a range that begins at nothing. */
export type Kind = Schemas["Kind"] | "at_most";
type Row = Schemas["BreakRow"];

/** A part of the face as it is typed. */
export interface Share {
  mode: string;
  member: "" | "A" | "B" | "C";
  pct: string;
}

/** A stage in which a piece gave way, as it is typed. */
export interface Stage {
  what: string;
  load: string;
}

export interface Judgement {
  kind: Kind;
  low: string;
  high: string;
  held: string;
  mode: string | null;
  wood: number | null;
  shares: Share[];
  note: string;
  reason: string;
  how: string;
  ended: "" | "held" | "failed";
  stages: Stage[];
  direction: "" | "opening" | "closing";
  offLine: string;
  side: string;
  tool: string;
  outcome: string;
  shown: string;
  /** When it broke, as the field for date and time has it; empty for now, or unchanged. */
  at: string;
}

/** How a hanging of weights ended, or that a vessel was filled until it broke. */
export type WeightsEnd = "adding" | "hanging" | "holds" | "filled";

/** Kinds with a time under load: needed, or told besides. */
export const mayHold = (kind: Kind): boolean => ["held", "at_least", "proof"].includes(kind);
export const wantsLoad = (kind: Kind): boolean => !["fell_apart", "void", "seen"].includes(kind);
/** A piece that held shows no face, but may have cracked; one that does not count shows nothing. */
export const mayHaveFace = (kind: Kind): boolean => kind !== "void";
export const needsFace = (kind: Kind): boolean =>
  mayHaveFace(kind) && kind !== "at_least" && kind !== "proof";

/** Nothing said yet, but the kind that is proposed. */
export const blank = (kind: Kind): Judgement => ({
  kind,
  low: "",
  high: "",
  held: "",
  mode: null,
  wood: null,
  shares: [],
  note: "",
  reason: "",
  at: "",
  how: "",
  ended: "",
  stages: [],
  direction: "",
  offLine: "",
  side: "",
  tool: "",
  outcome: "",
  shown: "",
});

/** The reading as it stands. */
export function asStands(row: Row, units: Units, kind: Kind): Judgement {
  const known = (row.kind as Kind | null) ?? kind;
  const standing = known === "between" && row.low_n === 0 ? "at_most" : known;
  return {
    kind: standing,
    low: standing === "at_most" ? row.shown_high : wantsLoad(standing) ? row.shown_low : "",
    high: standing === "between" ? row.shown_high : "",
    held: row.held_s === null ? "" : units.typed(row.held_s, "time"),
    mode: row.failure_mode,
    // With shares the wood failure follows from them.
    wood: row.shares.length ? null : row.wood_judged_pct,
    shares: row.shares.map(([what, pct]) => {
      const [mode = "", member = ""] = what.split("@");
      return { mode, member: member as Share["member"], pct: String(pct) };
    }),
    note: row.note,
    reason: row.reason,
    at: "",
    how: row.details.how ?? "",
    ended: (row.details.ended ?? "") as Judgement["ended"],
    stages: (row.details.stages ?? []).map(([what, load]) => ({
      what: String(what),
      load: typeof load === "number" ? units.typed(load, "force") : "",
    })),
    direction: (row.details.direction ?? "") as Judgement["direction"],
    offLine: row.details.off_line_mm == null ? "" : units.typed(row.details.off_line_mm, "length"),
    side: row.details.side ?? "",
    tool: row.details.tool ?? "",
    outcome: row.details.outcome ?? "",
    shown: row.details.shown ?? "",
  };
}

const sent = (shares: readonly Share[]) => shares.map((s) => ({ ...s, pct: Number(s.pct) || 0 }));

const details = (j: Judgement): Schemas["DetailsIn"] => ({
  how: j.how,
  ended: j.kind === "proof" ? j.ended : "",
  stages: j.stages.filter((s) => s.what.trim()),
  direction: j.direction,
  off_line: j.offLine,
  side: j.side,
  tool: j.tool,
  outcome: j.outcome,
  shown: j.kind === "seen" ? j.shown : "",
});

/** The kind and the loads as they are stored. */
const loads = (j: Judgement): { kind: Schemas["Kind"]; low: string; high: string } =>
  j.kind === "at_most"
    ? { kind: "between", low: j.low.trim() && "0 N", high: j.low }
    : {
        kind: j.kind,
        low: wantsLoad(j.kind) ? j.low : "",
        high: j.kind === "between" ? j.high : "",
      };

const moment = (at: string) => (at ? new Date(at).toISOString() : null);

export function asNew(
  code: string,
  j: Judgement,
  pull: number | null,
  confirmed: string[],
  weights: "" | WeightsEnd = "",
  again = false,
  beside = false,
): Schemas["ObservationIn"] {
  return {
    code,
    ...loads(j),
    beside,
    details: details(j),
    weights,
    again,
    held: mayHold(j.kind) ? j.held : "",
    failure_mode: mayHaveFace(j.kind) ? j.mode : null,
    wood_failure_pct: mayHaveFace(j.kind) ? j.wood : null,
    shares: mayHaveFace(j.kind) ? sent(j.shares) : [],
    note: j.note,
    reason: j.reason,
    pull_id: pull,
    source: weights === "filled" ? "vessel" : weights ? "weights" : pull !== null && !j.low ? "rig" : "typed",
    at: moment(j.at),
    confirmed,
  };
}

/** Only what differs from the standing reading: its curve, its source and the rest stay as they are. */
export function asCorrection(
  now: Judgement,
  before: Judgement,
  confirmed: string[],
): Schemas["CorrectionIn"] {
  const body: Record<string, unknown> = { confirmed };
  const [stored, stood] = [loads(now), loads(before)];
  for (const name of ["kind", "low", "high"] as const)
    if (stored[name] !== stood[name]) body[name] = stored[name];
  if (JSON.stringify(details(now)) !== JSON.stringify(details(before))) body["details"] = details(now);
  const names: readonly [keyof Judgement, string][] = [
    ["held", "held"],
    ["mode", "failure_mode"],
    ["wood", "wood_failure_pct"],
    ["note", "note"],
    ["reason", "reason"],
  ];
  for (const [own, name] of names) if (now[own] !== before[own]) body[name] = now[own];
  if (JSON.stringify(now.shares) !== JSON.stringify(before.shares)) body["shares"] = sent(now.shares);
  if (now.at) body["at"] = moment(now.at);
  return body as Schemas["CorrectionIn"];
}
