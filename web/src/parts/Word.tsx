/** Words of the trade, explained where they stand: dotted, opened by touch, pointer and key. */
import type { ReactNode } from "react";
import { Explained } from "./Explained";
import { WORDS } from "./helpTexts";

/** Other ways in which a sentence says a word of the help. */
const ALSO: Readonly<Record<string, string>> = { "can't be told": "can't tell yet" };
const MEANING = new Map<string, string>(WORDS);
const SAID = [...MEANING.keys(), ...Object.keys(ALSO)];
const KNOWN = new RegExp(`(?<![\\w-])(${SAID.join("|")})(?![\\w-])`, "i");

/** Whether a sentence has a word that can be opened. */
export const hasWord = (text: string): boolean => KNOWN.test(text);

/** A word of the help, as it is written here. */
export function Word({ of, children }: { of: string; children?: ReactNode }) {
  return <Explained why={MEANING.get(ALSO[of] ?? of)}>{children ?? of}</Explained>;
}

/** A sentence of which the first word of the trade can be opened. */
export function Worded({ text }: { text: string }) {
  const found = KNOWN.exec(text);
  const word = found?.[1];
  if (!found || !word) return text;
  return (
    <>
      {text.slice(0, found.index)}
      <Word of={word.toLowerCase()}>{word}</Word>
      {text.slice(found.index + word.length)}
    </>
  );
}
