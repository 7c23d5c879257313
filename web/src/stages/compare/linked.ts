/** Switches that stay in the link: what is looked at can be bookmarked, sent on, and gone back to. */
import { useState } from "react";
import { useSearchParams } from "react-router";

export interface Look {
  get: (key: string) => string;
  all: (key: string) => string[];
  set: (key: string, value: string | readonly string[]) => void;
  clear: () => void;
  /** Whether anything is looked at otherwise than the plan has it. */
  turned: boolean;
}

/** Which picture or piece is shown says nothing about the figures. */
const PICTURES = [
  "picture",
  "across",
  "beside",
  "piece",
  "weight",
  "reach",
  "unranked",
  "boxes",
  "most",
  "grouped",
  "ordered",
  "bring",
  "agreed",
  "through",
  "compared",
  "order",
];

export function useLook(): Look {
  const [link, setLink] = useSearchParams();
  // A switch turns at once; the link follows, and leads when one goes back or forth.
  const [params, turn] = useState(link);
  const [seen, setSeen] = useState(link.toString());
  if (link.toString() !== seen) {
    setSeen(link.toString());
    turn(link);
  }
  const setParams = (next: URLSearchParams) => {
    turn(next);
    setLink(next, { replace: true });
  };
  return {
    get: (key) => params.get(key) ?? "",
    all: (key) => params.getAll(key),
    set: (key, value) => {
      const next = new URLSearchParams(params);
      next.delete(key);
      for (const one of typeof value === "string" ? [value] : value) if (one) next.append(key, one);
      setParams(next);
    },
    clear: () => setParams(new URLSearchParams()),
    turned: [...params.keys()].some((k) => !PICTURES.includes(k)),
  };
}
