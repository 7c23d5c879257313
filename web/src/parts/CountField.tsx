/** A whole number of things: what is typed counts at once; an empty field waits for its number. */
import { useState } from "react";

interface Props {
  label: string;
  value: number;
  onChange: (count: number) => void;
  min?: number;
  max?: number;
  disabled?: boolean;
  className?: string;
}

export function CountField({
  label,
  value,
  onChange,
  min = 1,
  max = 500,
  disabled,
  className = "w-14",
}: Props) {
  const [text, setText] = useState<string | null>(null);
  const type = (typed: string) => {
    setText(typed);
    const count = Number(typed);
    // A part of a thing is no number of things: it waits, marked, instead of becoming another number.
    if (typed.trim() !== "" && Number.isInteger(count) && count >= min) onChange(count);
  };
  return (
    <input
      aria-label={label}
      type="number"
      min={min}
      max={max}
      className={`written text-center ${className}`}
      step={1}
      aria-invalid={text !== null && text.trim() !== "" && !Number.isInteger(Number(text)) ? true : undefined}
      disabled={disabled}
      value={text ?? value}
      onChange={(e) => type(e.target.value)}
      onBlur={() => setText(null)}
    />
  );
}
