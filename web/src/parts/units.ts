/**
 * Showing numbers in the user's units, by the same rules as the core. Reading what people type is the
 * server's work.
 */
import { useCatalogue, useShop } from "../api/queries";
import type { Schemas } from "../api/client";

const NARROW = "\u202f";

/** Digits of a value that somebody typed, and of one that was measured with unknown doubt: as in the core. */
const TYPED = 6;
const SHOWN = 3;
const TYPED_DECIMALS = 4;
/** Lengths in inches that lie on a 64th are shown as a rule or a stop has them. */
const PARTS = 64;

export interface Units {
  /** The user's unit of a dimension. */
  symbol: (dimension: string) => string;
  /**
   * A measured value in the user's unit, without the symbol; `doubt` is its uncertainty, in the base unit
   * too.
   */
  number: (value: number, dimension: string, doubt?: number | null) => string;
  /** The same with the symbol; nothing for no value. */
  text: (value: number | null | undefined, dimension: string, doubt?: number | null) => string;
  /** A value that somebody typed, as it was typed: in the unit `unit`, else in the user's own. */
  typed: (value: number, dimension: string, unit?: string) => string;
  /** The same in the user's own unit, without the symbol. */
  typedNumber: (value: number, dimension: string) => string;
  /** Base-unit value -> user's unit, as a number. */
  convert: (value: number, dimension: string) => number;
}

/** A number with its thousands apart; fewer than no decimals are tens and hundreds. */
export function grouped(value: number, decimals: number): string {
  const step = 10 ** -decimals;
  const rounded = decimals < 0 ? Math.round(value / step) * step : value;
  const fixed = rounded.toFixed(Math.max(0, Math.min(9, decimals)));
  const [whole = "", part] = fixed.replace("-", "\u2212").split(".");
  const spaced = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, NARROW) : whole;
  return part ? `${spaced}.${part}` : spaced;
}

/** Decimals that show so many significant digits, whole numbers being whole. */
const fitting = (value: number, digits: number): number =>
  value === 0 ? 0 : Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(value))));

function stripped(value: number, decimals: number): string {
  const rounded = Number(value.toFixed(Math.min(9, decimals)));
  return grouped(rounded, (String(rounded).split(".")[1] ?? "").length);
}

/** Decimals of what was typed: those beyond what a tool of the shop shows only come from turning units. */
const typedDecimals = (value: number): number =>
  Math.min(fitting(value, TYPED), Math.max(TYPED_DECIMALS, fitting(value, SHOWN)));

/** A length as a fraction of an inch where it lies on a 64th and is no whole number. */
function fraction(inches: number): string {
  let parts = Math.round(inches * PARTS);
  if (inches <= 0 || Math.abs(inches * PARTS - parts) > 1e-4 || parts % PARTS === 0) return "";
  const whole = Math.floor(parts / PARTS);
  parts -= whole * PARTS;
  let of = PARTS;
  for (; parts % 2 === 0; parts /= 2) of /= 2;
  return `${whole ? `${whole} ` : ""}${parts}/${of}`;
}

const isRound = (value: number): boolean => Math.abs(value - Math.round(value)) < 1e-6;

const withSymbol = (number: string, symbol: string): string => `${number} ${symbol}`.trim();

function make(catalogue: Schemas["CatalogueView"] | undefined, chosen: Record<string, string>): Units {
  const find = (dimension: string, symbol: string) =>
    catalogue?.units.find((u) => u.dimension === dimension && u.symbol === symbol);
  const symbol = (dimension: string) => chosen[dimension] ?? catalogue?.base_units[dimension] ?? "";
  const turn = (value: number, dimension: string, to: string) => {
    const unit = find(dimension, to);
    return unit ? (value - unit.offset) / unit.factor : value;
  };
  const number = (value: number, dimension: string, doubt?: number | null) => {
    const to = symbol(dimension);
    const shown = turn(value, dimension, to);
    const own = (doubt ?? 0) / (find(dimension, to)?.factor ?? 1);
    return own > 0 ? grouped(shown, -Math.floor(Math.log10(own))) : stripped(shown, fitting(shown, SHOWN));
  };
  const typedIn = (value: number, dimension: string, to: string) => {
    const shown = turn(value, dimension, to);
    return (to === "in" && fraction(shown)) || stripped(shown, typedDecimals(shown));
  };
  return {
    symbol,
    number,
    convert: (value, dimension) => turn(value, dimension, symbol(dimension)),
    text: (value, dimension, doubt) =>
      value === null || value === undefined
        ? ""
        : withSymbol(number(value, dimension, doubt), symbol(dimension)),
    typed: (value, dimension, unit) => {
      const to = unit || symbol(dimension);
      const inches = turn(value, dimension, to);
      // What was typed in whole or half millimetres stays what it was typed as.
      if (to === "in" && !fraction(inches) && isRound(2 * value) && !isRound(1000 * inches))
        return withSymbol(stripped(value, 1), "mm");
      return withSymbol(typedIn(value, dimension, to), to);
    },
    typedNumber: (value, dimension) => typedIn(value, dimension, symbol(dimension)),
  };
}

/** The unit of what hangs: pounds where forces are in pounds. */
export const unitOfWeights = (units: Units): string => (units.symbol("force") === "lbf" ? "lb" : "kg");

/** A unit of force as people read it on a scale: of a mass that hangs there. */
export const unitOfMass = (unit: string): string => ({ kgf: "kg", lbf: "lb" })[unit] ?? unit;

/** What money is counted in; "in money" where nobody said. */
export function useMoney(): string {
  const { data: shop } = useShop();
  return shop?.currency || "in money";
}

/** The sign of the user's currency beside a price; none where nobody chose one. */
export function useCurrency(): string {
  const { data: shop } = useShop();
  return shop?.currency ?? "";
}

export function useUnits(): Units {
  const { data: catalogue } = useCatalogue();
  const { data: shop } = useShop();
  return make(catalogue, shop?.units ?? {});
}

/** "1 joint", "12 joints": a number with what it counts. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;

/** "2 h 10 min", "35 min", "12 s", "3 d 4 h". */
export function span(seconds: number): string {
  const s = Math.round(Math.abs(seconds));
  if (s < 60) return `${s} s`;
  const minutes = Math.floor(s / 60);
  if (minutes < 60) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return minutes % 60 ? `${hours} h ${minutes % 60} min` : `${hours} h`;
  const days = Math.floor(hours / 24);
  return hours % 24 && days < 14 ? `${days} d ${hours % 24} h` : `${days} d`;
}

/** The time of day alone. */
export function hour(iso: string): string {
  return new Date(iso).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit", hour12: false });
}

/** A date of another year says its year. */
export function clock(iso: string): string {
  const at = new Date(iso);
  const isThisYear = at.getFullYear() === new Date().getFullYear();
  return at.toLocaleString(undefined, {
    ...(isThisYear ? { weekday: "short" } : { year: "numeric" }),
    day: "numeric",
    month: "short",
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
  });
}

/** As on a kitchen clock: "7:05", from an hour on "4 h 05". */
export function clockOf(seconds: number): string {
  const s = Math.floor(Math.abs(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  return s < 3600
    ? `${Math.floor(s / 60)}:${two(s % 60)}`
    : `${Math.floor(s / 3600)} h ${two(Math.floor((s % 3600) / 60))}`;
}
