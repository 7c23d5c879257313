/** Showing numbers in the user's units. Reading what people type is the server's work. */
import { useReference, useShop } from "../api/queries";
import type { Schemas } from "../api/client";

const NARROW = "\u202f";

export interface Units {
  /** The user's unit of a dimension (the base unit where there is no choice). */
  symbol: (dimension: string) => string;
  /** A base-unit value in the user's unit, without the symbol. */
  number: (value: number, dimension: string, decimals?: number) => string;
  /** The same with the symbol; `unit` shows it in another one. */
  text: (value: number | null | undefined, dimension: string, decimals?: number, unit?: string) => string;
  /** Base-unit value -> user's unit, as a number. */
  convert: (value: number, dimension: string) => number;
}

export function grouped(value: number, decimals: number): string {
  const fixed = value.toFixed(Math.max(0, Math.min(6, decimals)));
  const [whole = "", part] = fixed.replace("-", "\u2212").split(".");
  const spaced = whole.length > 4 ? whole.replace(/\B(?=(\d{3})+$)/g, NARROW) : whole;
  return part ? `${spaced}.${part}` : spaced;
}

/** Without a stated number of decimals: as typed, up to five significant digits, no trailing zeros. */
function fitting(value: number): string {
  const decimals = value === 0 ? 0 : Math.max(0, 4 - Math.floor(Math.log10(Math.abs(value))));
  const rounded = Number(value.toFixed(Math.min(6, decimals)));
  return grouped(rounded, (String(rounded).split(".")[1] ?? "").length);
}

function make(reference: Schemas["ReferenceView"] | undefined, chosen: Record<string, string>): Units {
  const find = (dimension: string, symbol: string) =>
    reference?.units.find((u) => u.dimension === dimension && u.symbol === symbol);
  const symbol = (dimension: string) => chosen[dimension] ?? reference?.base_units[dimension] ?? "";
  const turn = (value: number, dimension: string, to: string) => {
    const unit = find(dimension, to);
    return unit ? (value - unit.offset) / unit.factor : value;
  };
  const number = (value: number, dimension: string, decimals?: number, to = symbol(dimension)) => {
    const shown = turn(value, dimension, to);
    const factor = find(dimension, to)?.factor ?? 1;
    return decimals === undefined ? fitting(shown) : grouped(shown, decimals + Math.round(Math.log10(factor)));
  };
  return {
    symbol,
    number,
    convert: (value, dimension) => turn(value, dimension, symbol(dimension)),
    text: (value, dimension, decimals, to = symbol(dimension)) =>
      value === null || value === undefined ? "" : `${number(value, dimension, decimals, to)}${to === "%" ? NARROW : " "}${to}`.trim(),
  };
}

export function useUnits(): Units {
  const { data: reference } = useReference();
  const { data: shop } = useShop();
  return make(reference, shop?.units ?? {});
}

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

export function clock(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { weekday: "short", day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", hour12: false });
}

/** As on a kitchen clock: "7:05", from an hour on "4 h 05". */
export function clockOf(seconds: number): string {
  const s = Math.floor(Math.abs(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  return s < 3600 ? `${Math.floor(s / 60)}:${two(s % 60)}` : `${Math.floor(s / 3600)} h ${two(Math.floor((s % 3600) / 60))}`;
}
