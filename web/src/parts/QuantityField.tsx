/** A quantity with its unit: takes what people write ("3/4 in", "19", "40 lbf"), shows quietly what was understood. */
import { useEffect, useId, useRef, useState } from "react";
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
  const shown = draft ?? (value === null ? "" : units.text(value, dimension, undefined, unit));
  const complaint = refused ?? props.problem;
  // What was typed elsewhere while this was being read must not be overwritten: the newest handler knows it.
  const newest = useRef(onChange);
  useEffect(() => {
    newest.current = onChange;
  }, [onChange]);

  async function commit(draft: string): Promise<boolean> {
    if (!draft.trim()) {
      setRefused(null);
      setDraft(null);
      onChange(null, unit);
      return true;
    }
    try {
      const q = await parseQuantity(draft, dimension, unit);
      setRefused(null);
      setOther(q.other);
      setDraft(null);
      newest.current(q.value, q.unit);
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
        aria-invalid={complaint ? true : undefined}
        aria-describedby={complaint ? `${id}-why` : undefined}
        onChange={(e) => setDraft(e.target.value)}
        onBlur={leave}
        onKeyDown={(e) => {
          if (e.key === "Enter") leave();
          if (e.key === "Escape") setDraft(null);
        }}
      />
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
