/**
 * How a piece failed, as a shape of its own: the same mark in the plot, its legend and the lists. Colour
 * only repeats what the shape says.
 */
const WOOD = "fill-wood stroke-wood";
const GLUE = "fill-glue stroke-glue";
const HOLLOW_GLUE = "fill-sheet stroke-glue";

export const MARK_NAMES: Record<string, string> = {
  interface: "At the interface",
  "in-glue": "In the glue",
  "wood-at-line": "In the wood at the line",
  "wood-deep": "In the wood, deep",
  elsewhere: "Elsewhere",
  mixed: "Mixed",
  "": "Not judged",
};

/** The mark of a failure mode around (0, 0), about 10 wide. */
export function Mark({ mode }: { mode: string | null | undefined }) {
  switch (mode) {
    case "interface":
      return (
        <path
          d="M-4.500-4.500h9M-4.500 4.500h9M-4.500 0h9"
          className="stroke-glue"
          strokeWidth="2.2"
          fill="none"
        />
      );
    case "in-glue":
      return <path d="M0-5.500 3.300 0 0 5.500-3.300 0z" className={GLUE} strokeWidth="1.2" />;
    case "wood-at-line":
      return <path d="M-5 4.500 0-5 5 4.500z" className={WOOD} strokeWidth="1.2" />;
    case "wood-deep":
      return <path d="M-4.500-4.500h9v9h-9z" className={WOOD} strokeWidth="1.2" />;
    case "elsewhere":
      return <path d="M-4.500-4.500l9 9m0-9-9 9" className="stroke-ink" strokeWidth="2" fill="none" />;
    case "mixed":
      return (
        <g>
          <path d="M-5 4.500 0-5v9.500z" className={WOOD} strokeWidth="1" />
          <path d="M0-5 5 4.500H0z" className={HOLLOW_GLUE} strokeWidth="1" />
        </g>
      );
    default:
      return <circle r="4" className="fill-sheet stroke-ink" strokeWidth="1.6" />;
  }
}

export function MarkIcon({ mode }: { mode: string | null | undefined }) {
  return (
    <svg
      viewBox="-8 -8 16 16"
      width="18"
      height="18"
      aria-hidden
      className="inline-block shrink-0 align-[-0.2em]"
    >
      <Mark mode={mode} />
    </svg>
  );
}
