/**
 * A choice from a list that also takes a word of one's own, where the field allows it. Keyboard and
 * screen readers by Headless UI.
 */
import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useState } from "react";

interface Props {
  label: string;
  value: string;
  choices: readonly (readonly [string, string])[];
  freeText?: boolean;
  onChange: (value: string) => void;
  disabled?: boolean;
  placeholder?: string;
  className?: string;
  problem?: boolean;
}

export function ChoiceField({
  label,
  value,
  choices,
  freeText = false,
  onChange,
  disabled,
  placeholder,
  className = "w-52",
  problem,
}: Props) {
  const [query, setQuery] = useState("");
  const wanted = query.trim().toLowerCase();
  const fitting = wanted ? choices.filter(([, name]) => name.toLowerCase().includes(wanted)) : choices;
  // Typed by its key or by its name, it is that choice and nothing new.
  const isKnown = choices.some(([key, name]) => [key, name].some((x) => x.toLowerCase() === wanted));
  const isNew = freeText && wanted !== "" && !isKnown;
  const nameOf = (key: string) => choices.find(([k]) => k === key)?.[1] ?? key;

  return (
    <Combobox
      immediate
      value={value}
      disabled={disabled}
      onChange={(next: string | null) => {
        if (next !== null) onChange(next);
        setQuery("");
      }}
      onClose={() => setQuery("")}
    >
      <span className="relative inline-block">
        <ComboboxInput
          aria-label={label}
          className={`written ${className}`}
          autoComplete="off"
          placeholder={placeholder}
          aria-invalid={problem || undefined}
          displayValue={(key: string) => nameOf(key)}
          onChange={(e) => setQuery(e.target.value)}
        />
        {(fitting.length > 0 || isNew) && (
          <ComboboxOptions
            modal={false}
            className={`absolute top-full left-0 z-30 max-h-72 w-72 overflow-auto rounded-md border
              border-strong-rule bg-sheet py-1 shadow-lift`}
          >
            {isNew && (
              <ComboboxOption value={query.trim()} className="px-3 py-1.5 data-focus:bg-spruce-pale">
                Use “{query.trim()}”
              </ComboboxOption>
            )}
            {fitting.map(([key, name]) => (
              <ComboboxOption
                key={key}
                value={key}
                className="px-3 py-1.5 data-focus:bg-spruce-pale data-selected:font-semibold"
              >
                {name}
              </ComboboxOption>
            ))}
          </ComboboxOptions>
        )}
      </span>
    </Combobox>
  );
}
