/** What an answer says of a level, in words, and shares as the sentence has them. */
export const STANDINGS: Readonly<Record<string, string>> = {
  top: "leads",
  stronger: "stronger",
  weaker: "weaker",
  alike: "the same",
  unclear: "no clear difference",
  not_enough_data: "not enough data",
  nothing_left: "nothing left",
  left_out: "left out",
  still_to_break: "still to break",
  not_compared: "",
  enough: "enough",
  too_little: "too little",
  passes: "passes",
  fails: "fails",
  lasts: "lasts",
  loses: "loses",
  gains: "gains",
  base: "held against",
};

/** A share in whole percent, halves rounded up as in sentences. */
export const pct = (v: number): string => String(Math.floor(100 * v + 0.5));

/** A sentence in which no line ends between a number and its unit. */
export const glued = (text: string): string =>
  text.replace(/(\d) (?=(?:%|MPa|psi|kN|N|lbf|kgf|kg|mm|h|min|d)(?![A-Za-z]))/g, "$1\u00a0");
