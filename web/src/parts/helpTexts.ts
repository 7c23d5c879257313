/** What the help says: a few lines for each stage, the keys, and the words of the trade. */

interface Page {
  title: string;
  lines: readonly string[];
}

export const STAGES: Readonly<Record<string, Page>> = {
  today: {
    title: "Today",
    lines: [
      "What is due stands first, the soonest on top; then every batch with how far it is.",
      "A batch goes through five stages: plan, cut, glue, break, compare. Each can be opened at any time.",
      "A table of another shop can be taken in; a file of this program brings a whole batch back.",
    ],
  },
  plan: {
    title: "Plan",
    lines: [
      "Complete the sentences: what you want to find out, what differs, how many of each, and the control.",
      "On the right: what such a batch can show, the loads to expect at the rig, the cost.",
      "What is compared is told before the first break; so is what counts as good enough.",
      "Locking makes the pieces with their codes. Later changes are amendments, with a reason.",
    ],
  },
  cut: {
    title: "Cut",
    lines: [
      "Lay the pieces out on your boards: pieces of all treatments are spread over each board.",
      "Print the labels, write the code on both halves, and type what you measure.",
      "A piece that is spoiled is cut again, or a spare takes its place.",
    ],
  },
  glue: {
    title: "Glue",
    lines: [
      "The schedule says what to glue when, in your hours and with your clamps.",
      "The bench guide leads through a glue-up joint by joint, with times that ring.",
      "What was done otherwise is written down as it was: it goes with the piece to the verdict.",
    ],
  },
  break: {
    title: "Break",
    lines: [
      "Pieces come in a random order and blind: the code is on the piece, the treatment is not.",
      "With a rig: begin to pull, load until it breaks, look at the faces. Without one: type the load.",
      "A load that was held without a break is at least; a piece that came apart by itself fell apart.",
    ],
  },
  compare: {
    title: "Compare",
    lines: [
      "The first sentence is the answer; beside it stands what bears it and what weakens it.",
      "Switches below change how it is looked at, stay in the link, and say what they turn.",
      "A dotted figure explains itself with its own numbers; a pressed mark opens its piece.",
      "What you conclude yourself is held against the figures.",
    ],
  },
  shop: {
    title: "Shop",
    lines: [
      "Units, rig, weights, clamps and hours, bottles and boards: said once, used everywhere.",
      "A copy of the data is made on each day; any can be put back.",
      "How this device looks is chosen at the end of the page.",
    ],
  },
};

export const KEYS = [
  ["?", "this help"],
  ["Ctrl + Z", "undo in this stage; with Shift: redo"],
  ["Enter", "at the bench and the rig: what the large button says"],
  ["1 to 9", "at the rig: how it gave way"],
  ["arrows, Enter", "in sheets: from cell to cell"],
  ["Escape", "leave a field as it was; close what lies on top"],
  ["Tab", "from one thing to the next; everything can be reached so"],
] as const;

export const WORDS = [
  ["open time", "how long the glue may lie open between spreading and closing"],
  ["clamp time", "how long the joint stays pressed; cure time: how long until it is broken"],
  ["wood failure", "the share of the broken face on which the wood tore, not the glue"],
  ["at least", "the piece did not break, or the wood gave way: the bond bears that much or more"],
  ["interval", "where the true mean lies in 95 of 100 such batches; few or scattered pieces make it wide"],
  [
    "can't tell yet",
    "the interval holds both a difference that matters and none: more pieces would settle it",
  ],
  ["same for practical purposes", "whatever differs is surely less than what matters to you"],
  ["control", "what the others are set against; solid wood is a control of its own"],
  ["block", "a board, day or session that holds pieces of several treatments; what it does is taken out"],
  ["flag", "something worth minding about a piece, from the bench on; it goes with every figure"],
] as const;
