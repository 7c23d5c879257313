/**
 * A quantity with its unit: takes what people write ("3/4 in", "19", "40 lbf"), shows quietly what was
 * understood.
 */
import { useId, useLayoutEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { Problem } from "../api/client";
import { parseQuantity } from "../api/queries";
import { isRead } from "./reading";
import { useUnits } from "./units";

interface Props {
  label: string;
  dimension: string;
  /** In the base unit; null is empty. */
  value: number | null;
  /** Unit of a bare number, and for showing the value; the user's own unless told. */
  unit?: string;
  onChange: (value: number | null, unit: string) => void;
  /** Words that may stand for a number (key and name), the one that does now, and what to do with one. */
  words?: readonly (readonly [string, string])[];
  word?: string | null;
  onWord?: (key: string) => void;
  /** May not be left empty: then it says so, and keeps what it had. */
  needed?: boolean;
  disabled?: boolean;
  problem?: string;
  hideLabel?: boolean;
  className?: string;
  placeholder?: string;
}

export function QuantityField(props: Props) {
  const { label, dimension, value, onChange, disabled, hideLabel = true, className = "w-24" } = props;
  const id = useId();
  const units = useUnits();
  const unit = props.unit || units.symbol(dimension);
  const [draft, setDraft] = useState<string | null>(null);
  const [refused, setRefused] = useState<string | null>(null);
  const [other, setOther] = useState<string | null>(null);
  const { words = [], word = null, onWord } = props;
  const nameOfWord = words.find(([key]) => key === word)?.[1].toLowerCase() ?? word;
  const shown = draft ?? nameOfWord ?? (value === null ? "" : units.typed(value, dimension, unit));
  const complaint = refused ?? props.problem;
  // What was typed elsewhere while this was being read must not be overwritten: the newest handler knows it.
  const newest = useRef(onChange);
  useLayoutEffect(() => {
    newest.current = onChange;
  }, [onChange]);

  async function commit(draft: string): Promise<boolean> {
    const typed = draft.trim().toLowerCase();
    const known = words.find(([key, name]) => typed === key.toLowerCase() || typed === name.toLowerCase());
    if (known && onWord) {
      setRefused(null);
      setDraft(null);
      onWord(known[0]);
      return true;
    }
    if (!draft.trim() && props.needed) {
      setRefused(
        `This needs a value; it is still ${units.typed(value ?? 0, dimension, unit)}. Escape leaves it so.`,
      );
      return false;
    }
    if (!draft.trim()) {
      setRefused(null);
      setDraft(null);
      onChange(null, unit);
      return true;
    }
    try {
      const q = await parseQuantity(draft, dimension, unit);
      // Drawn at once: of two fields that are read in the same moment the second builds upon the first.
      flushSync(() => {
        setRefused(null);
        setOther(q.other);
        setDraft(null);
        newest.current(q.value, q.unit);
      });
      return true;
    } catch (error) {
      const first = error instanceof Problem ? error.errors[0] : undefined;
      setRefused(first ? `${first.message}. ${first.remedy}` : String(error));
      return false;
    }
  }

  const leave = () => {
    if (draft !== null) isRead(commit(draft));
  };

  return (
    <span className="inline-block align-top">
      <label htmlFor={id} className={hideLabel ? "sr-only" : "mr-2"}>
        {label}
      </label>
      <input
        id={id}
        className={`written ${className}`}
        value={shown}
        disabled={disabled}
        placeholder={props.placeholder}
        inputMode="text"
        autoComplete="off"
        list={words.length ? `${id}-words` : undefined}
        aria-invalid={complaint ? true : undefined}
        aria-describedby={complaint ? `${id}-why` : undefined}
        onChange={(e) => setDraft(e.target.value)}
        onBlur={leave}
        onKeyDown={(e) => {
          if (e.key === "Enter") leave();
          if (e.key === "Escape") {
            setDraft(null);
            setRefused(null);
          }
        }}
      />
      {words.length > 0 && (
        <datalist id={`${id}-words`}>
          {words.map(([key, name]) => (
            <option key={key} value={name.toLowerCase()} />
          ))}
        </datalist>
      )}
      {complaint ? (
        <span id={`${id}-why`} role="alert" className="block max-w-72 text-sm text-alarm">
          {complaint}
        </span>
      ) : (
        other && <span className="ml-1 text-sm text-faded">{other}</span>
      )}
    </span>
  );
}
