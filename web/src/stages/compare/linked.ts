/** Switches that stay in the link: what is looked at can be bookmarked, sent on, and gone back to. */
import { useSearchParams } from "react-router";

export interface Look {
  get: (key: string) => string;
  all: (key: string) => string[];
  set: (key: string, value: string | readonly string[]) => void;
  clear: () => void;
  /** Whether anything is looked at otherwise than the plan has it. */
  turned: boolean;
}

/** Which picture is shown says nothing about the figures. */
const PICTURES = ["picture", "across"];

export function useLook(): Look {
  const [params, setParams] = useSearchParams();
  return {
    get: (key) => params.get(key) ?? "",
    all: (key) => params.getAll(key),
    set: (key, value) => {
      const next = new URLSearchParams(params);
      next.delete(key);
      for (const one of typeof value === "string" ? [value] : value) if (one) next.append(key, one);
      setParams(next, { replace: true });
    },
    clear: () => setParams({}, { replace: true }),
    turned: [...params.keys()].some((k) => !PICTURES.includes(k)),
  };
}
