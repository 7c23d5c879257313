/** The sheet of a plot: drawn to scale on the screen, as wide as the page on paper. */
import type { ReactNode } from "react";

interface ChartProps {
  width: number;
  height: number;
  /** What it shows, in words. */
  label: string;
  children: ReactNode;
}

export function Chart({ width, height, label, children }: ChartProps) {
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      className="print:h-auto print:w-full"
      role="img"
      aria-label={label}
    >
      {children}
    </svg>
  );
}
