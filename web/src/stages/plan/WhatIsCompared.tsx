/** What will be compared, as sentences: struck out, made of every pair, or added before the first break. */
import { useState } from "react";
import { Button } from "../../parts/controls";
import { counted } from "../../parts/units";
import type { PlanProps } from "./common";

const NOTHING = { struck: [], every_pair: [], added: [] };

const LINE = ["flex items-baseline gap-1.5", "flex items-baseline gap-1.5 text-faded line-through"];

const toggled = (list: readonly string[], key: string, on: boolean) =>
  on ? [...list.filter((x) => x !== key), key] : list.filter((x) => x !== key);

export function WhatIsCompared({ draft, view, locked }: PlanProps) {
  const families = view.forecast.families;
  const c = draft.document.compared ?? NOTHING;
  const { struck = [], every_pair = [], added = [] } = c;
  const put = (part: Partial<typeof c>) => draft.change({ compared: { struck, every_pair, added, ...part } });
  if (!families.length) return null;
  return (
    <section aria-label="What is compared" className="mt-4">
      <h2 className="head mb-1">What is compared</h2>
      <ul className="space-y-1">
        {families.map((f) => (
          <li key={f.id} className="flex flex-wrap items-baseline gap-x-3">
            <label className={LINE[struck.includes(f.id) ? 1 : 0]}>
              <input
                type="checkbox"
                className="size-4 translate-y-0.5"
                checked={!struck.includes(f.id)}
                disabled={locked}
                onChange={(e) => put({ struck: toggled(struck, f.id, !e.target.checked) })}
              />
              {f.sentence}
            </label>
            <span className="text-sm text-faded">{counted(f.comparisons, "comparison")}</span>
            {f.kind === "factor" && draft.document.control[f.of] && (
              <label className="flex items-baseline gap-1.5 text-sm">
                <input
                  type="checkbox"
                  className="size-4 translate-y-0.5"
                  checked={every_pair.includes(f.id)}
                  disabled={locked}
                  onChange={(e) => put({ every_pair: toggled(every_pair, f.id, e.target.checked) })}
                />
                every pair
              </label>
            )}
            {f.kind === "added" && !locked && (
              <Button
                look="quiet"
                onClick={() => put({ added: added.filter((a) => `added:${a.id}` !== f.id) })}
              >
                take away
              </Button>
            )}
          </li>
        ))}
      </ul>
      {!locked && <Adding view={view} onAdd={(pair) => put({ added: [...added, pair] })} />}
    </section>
  );
}

interface AddingProps {
  view: PlanProps["view"];
  onAdd: (pair: { first: string; second: string; id: string }) => void;
}

/** Two treatments that the factors do not set against each other. */
function Adding({ view, onAdd }: AddingProps) {
  const [pair, setPair] = useState<readonly [string, string]>(["", ""]);
  const joints = view.forecast.treatments.filter((t) => t.role !== "solid");
  if (joints.length < 3) return null;
  const choose = (label: string, place: 0 | 1) => (
    <select
      aria-label={label}
      className="written max-w-64"
      value={pair[place]}
      onChange={(e) => setPair(place ? [pair[0], e.target.value] : [e.target.value, pair[1]])}
    >
      <option value="">a treatment</option>
      {joints.map((t) => (
        <option key={t.id} value={t.id}>
          {t.letter} {t.label}
        </option>
      ))}
    </select>
  );
  const ready = pair[0] && pair[1] && pair[0] !== pair[1];
  return (
    <p className="mt-1 text-sm">
      Compare also {choose("Compare also", 0)} with {choose("Compare it with", 1)}{" "}
      <Button
        look="quiet"
        disabled={!ready}
        onClick={() => {
          onAdd({ first: pair[0], second: pair[1], id: "" });
          setPair(["", ""]);
        }}
      >
        Add it
      </Button>
    </p>
  );
}
