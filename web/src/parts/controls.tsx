/** Buttons, notes and other small parts that every screen uses. */
import { useRef, type ButtonHTMLAttributes, type ReactNode, type Ref } from "react";
import type { Problem } from "../api/client";

type Look = "main" | "plain" | "quiet" | "bench";

const LOOKS: Record<Look, string> = {
  main: "bg-spruce text-on-spruce hover:bg-spruce-deep disabled:bg-strong-rule px-4 py-2 font-semibold",
  plain:
    "border border-strong-rule bg-sheet hover:border-spruce hover:text-spruce-deep px-3 py-1.5 " +
    "disabled:text-faded disabled:border-rule",
  quiet:
    "text-spruce underline underline-offset-4 decoration-1 hover:decoration-2 px-1 py-1 " +
    "disabled:text-faded disabled:no-underline",
  bench:
    "bg-spruce text-on-spruce hover:bg-spruce-deep disabled:bg-strong-rule min-h-14 px-6 text-xl " +
    "font-semibold shadow-lift",
};

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look;
  ref?: Ref<HTMLButtonElement>;
}

/** A line in sight wherever one has scrolled to: at the bench that is never the top. */
export const STICKY =
  "no-print sticky top-0 z-20 border-b border-notice bg-notice-pale px-4 py-1.5 text-notice sm:px-6";

/**
 * What is pressed stays pressed: when the page moves under the finger, the release still belongs to the
 * button. Drawn off it by more than a finger's width, the press is taken back, as on every button.
 */
const SLIDE_PX = 30;

export function Button({ look = "plain", className = "", type = "button", onClick, ...rest }: ButtonProps) {
  const from = useRef<readonly [number, number] | null>(null);
  return (
    <button
      type={type}
      onPointerDown={(e) => {
        from.current = [e.clientX, e.clientY];
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onClick={(e) => {
        const start = from.current;
        from.current = null;
        const here = e.currentTarget.getBoundingClientRect();
        const inside =
          e.clientX >= here.left &&
          e.clientX <= here.right &&
          e.clientY >= here.top &&
          e.clientY <= here.bottom;
        const slid =
          start && e.detail > 0 && Math.hypot(e.clientX - start[0], e.clientY - start[1]) > SLIDE_PX;
        if (inside || !slid) onClick?.(e);
        else e.preventDefault();
      }}
      data-bench={look === "bench" || undefined}
      className={`rounded-md ${LOOKS[look]} disabled:cursor-not-allowed ${className}`}
      {...rest}
    />
  );
}

/** A key to press, shown beside what it does. */
export function Key({ children }: { children: ReactNode }) {
  return (
    <kbd aria-hidden className="ml-2 rounded-sm border border-current px-1.5 font-mono text-xs opacity-80">
      {children}
    </kbd>
  );
}

/** What was refused: each field with what is wrong and what to do. Announced when it appears. */
export function ProblemNote({ problem, only }: { problem: Problem | null; only?: string }) {
  if (!problem) return null;
  const errors = only ? problem.errors.filter((e) => e.field.startsWith(only)) : problem.errors;
  if (only && !errors.length) return null;
  return (
    <div role="alert" className="my-2 border-l-4 border-alarm bg-alarm-pale px-3 py-2 text-alarm">
      {errors.length === 0 && <p>{problem.message}</p>}
      {errors.slice(0, 12).map((e) => (
        <p key={e.field + e.message}>
          <strong>{fieldName(e.field)}</strong> {e.message}. {e.remedy}
        </p>
      ))}
      {errors.length > 12 && <p>And {errors.length - 12} more.</p>}
    </div>
  );
}

interface DoubtProps {
  problem: Problem | null;
  busy: boolean;
  /** What was confirmed with what was refused: that is not asked again. */
  agreed: readonly string[] | undefined;
  /** Called with all that is confirmed now, to be sent back. */
  onConfirm: (confirmed: string[]) => void;
  act: string;
}

/** What was refused; where it was only doubted, it can be done all the same, and is flagged. */
export function DoubtNote({ problem, busy, agreed = [], onConfirm, act }: DoubtProps) {
  return (
    <>
      <ProblemNote problem={problem} />
      {problem?.isDoubt && (
        <Button
          autoFocus
          disabled={busy}
          onClick={() => onConfirm([...agreed, ...problem.errors.map((e) => e.field)])}
        >
          {act} all the same
        </Button>
      )}
    </>
  );
}

/** Questions that are asked before something is saved: their keys are not fields. */
const DOUBTS = [
  "early",
  "over capacity",
  "at capacity",
  "finer than the step",
  "face differs",
  "two peaks",
  "very low",
  "has a result",
  "clamps early",
  "other glue",
];

/** The path of a field in words; what stands in a list is counted from 1, as people do. */
function fieldName(field: string): string {
  if (DOUBTS.includes(field)) return "Are you sure?";
  if (field === "at") return "time";
  return field.includes(" ")
    ? field
    : field
        .replace(/_(n|mm|mpa|s|pct|c)$/, "")
        .replace(/\.(\d+)/g, (_, n) => ` ${Number(n) + 1}`)
        .replace(/[._]/g, " ");
}

/** Something worth knowing before going on, beside the thing it is about. */
export function Notice({ children }: { children: ReactNode }) {
  return <p className="border-l-4 border-notice bg-notice-pale px-3 py-1.5 text-notice">{children}</p>;
}

/** The usual cautions of a method or a glue: short, always in sight where the act takes place. */
export function Cautions({ items }: { items: readonly string[] }) {
  if (!items.length) return null;
  return (
    <aside
      aria-label="Cautions"
      className="border-y border-notice/40 bg-notice-pale px-3 py-2 text-sm text-notice"
    >
      <ul className="flex flex-wrap gap-x-6 gap-y-1">
        {items.map((text) => (
          <li key={text}>{text}</li>
        ))}
      </ul>
    </aside>
  );
}

export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="py-16 text-center text-faded">
      Fetching {what} …
    </p>
  );
}

/** A specimen code, as it stands on the label. */
export function Code({ children, size = "plain" }: { children: string; size?: "plain" | "large" | "huge" }) {
  const scale = { plain: "", large: "text-5xl", huge: "text-[min(4.5rem,20vw)] leading-none sm:text-8xl" }[
    size
  ];
  return <span className={`font-mono font-semibold tracking-wide ${scale}`}>{children}</span>;
}
