/** Something short with more behind it: opens by pointer, finger and keyboard alike, and is read out. */
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import type { ReactNode } from "react";

interface Props {
  /** What is in sight. */
  children: ReactNode;
  /** What it means, or what there is to say of it. */
  why: ReactNode;
  label?: string;
  className?: string;
}

export function Explained({ children, why, label, className = "" }: Props) {
  return (
    <Popover as="span" className="inline">
      <PopoverButton
        className={`${className} relative cursor-help text-left underline decoration-dotted
          underline-offset-4`}
      >
        {children}
        {label && <span className="sr-only"> ({label})</span>}
      </PopoverButton>
      <PopoverPanel
        anchor={{ to: "bottom start", gap: 4 }}
        className={`z-40 max-w-80 rounded-md border border-strong-rule bg-sheet px-3 py-2 text-sm
          whitespace-normal text-ink shadow-lift`}
      >
        {why}
      </PopoverPanel>
    </Popover>
  );
}

/**
 * What is off with a piece or a treatment, wherever it is shown: the first of it in sight, all of it
 * behind.
 */
export function Flags({ items, of }: { items: readonly string[]; of: string }) {
  const first = items[0];
  if (first === undefined) return null;
  return (
    <Explained
      label={`to mind of ${of}`}
      className="text-notice"
      why={
        <ul className="list-disc space-y-1 pl-4">
          {items.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
      }
    >
      <span aria-hidden className="mr-1 font-bold">
        !
      </span>
      {first}
      {items.length > 1 && `, +${items.length - 1}`}
    </Explained>
  );
}
