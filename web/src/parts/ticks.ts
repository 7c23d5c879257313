/** Ticks of an axis from 0: about six, at round numbers. */
export function niceTicks(most: number): number[] {
  const raw = most / 6;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 2.5, 5, 10].map((m) => m * power).find((s) => s >= raw) ?? raw;
  return Array.from({ length: Math.floor(most / step + 1e-9) + 1 }, (_, i) =>
    Number((i * step).toPrecision(6)),
  );
}
