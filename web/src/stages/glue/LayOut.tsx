/** Before a run at the bench: its joints in order, and what is mixed, from which bottle, in what air. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button, Code, Key, Notice } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { clockOf, counted, useUnits } from "../../parts/units";
import type { Taps } from "./taps";

type Known = Schemas["TapIn"]["force_known"];

/**
 * What is about to be mixed: its limits are shown before it is. Nobody's bottle is chosen for him: null
 * until then.
 */
export interface Mix {
  bottle: string | null;
  air: number | null;
}

/** Of the list of bottles: no label begins with a space. */
const UNCHOSEN = " ";

interface Props {
  view: Schemas["Guide"];
  taps: Taps;
  mix: Mix;
  onMix: (change: Partial<Mix>) => void;
}

export function LayOut({ view, taps, mix, onMix }: Props) {
  const units = useUnits();
  const [damp, setDamp] = useState<number | null>(null);
  const [ratio, setRatio] = useState("");
  const [deviation, setDeviation] = useState("");
  const [known, setKnown] = useState<Known>("estimated");
  const [asked, setAsked] = useState(false);
  const doubts = view.bottles.find((b) => b.label === mix.bottle)?.doubts;
  const clamped = view.pieces.some((p) => p.force_n !== null || !p.pressed_by);
  const tooMany = view.joints_per_mix !== null && view.joints_per_mix < view.pieces.length;
  return (
    <div className="space-y-4">
      <h2 className="text-2xl font-bold">
        Lay out {counted(view.pieces.length, "joint")}, {view.glue_name}: about{" "}
        {Math.max(1, Math.ceil(view.grams))} g
      </h2>
      <ol className="sheet divide-y divide-rule">
        {view.pieces.map((p) => (
          <li key={p.code} className="flex flex-wrap items-baseline gap-x-5 px-4 py-2 text-xl sm:text-2xl">
            <Code>{p.code}</Code>
            <span className="min-w-0 flex-1 wrap-anywhere">
              <span className="font-mono">{p.treatment}</span> {p.label}
              {p.parent && <span className="text-faded">, {p.parent.split(" (")[0]}</span>}
            </span>
            <span className="text-faded">
              {p.coat && "first coat, "}
              {p.force_n === null ? p.pressed_by : units.text(p.force_n, "force")}{" "}
              {p.clamp && `in ${p.clamp}`}
            </span>
          </li>
        ))}
      </ol>
      <p className="text-lg leading-10">
        From{" "}
        <select
          aria-label="Bottle"
          className="written"
          value={mix.bottle ?? UNCHOSEN}
          aria-invalid={asked && mix.bottle === null ? true : undefined}
          onChange={(e) => onMix({ bottle: e.target.value === UNCHOSEN ? null : e.target.value })}
        >
          <option value={UNCHOSEN}>choose a bottle …</option>
          {view.bottles.map((b) => (
            <option key={b.label} value={b.label}>
              {b.label}: {b.holds}
              {b.doubts && ` (${b.doubts})`}
            </option>
          ))}
          <option value="">no bottle named</option>
        </select>
        , air at{" "}
        <QuantityField
          label="Air temperature"
          dimension="temperature"
          className="w-24"
          value={mix.air}
          placeholder={units.symbol("temperature")}
          onChange={(air) => onMix({ air })}
        />{" "}
        and{" "}
        <QuantityField
          label="Humidity"
          dimension="share"
          className="w-20"
          value={damp}
          placeholder="%"
          onChange={setDamp}
        />
        {view.pot_s !== null && (
          <>
            , mixed{" "}
            <input
              aria-label="Ratio of the mix"
              className="written w-28"
              placeholder="2 : 1"
              value={ratio}
              onChange={(e) => setRatio(e.target.value)}
            />
          </>
        )}
        ;{" "}
        <input
          aria-label="What was not as the label says"
          className="written w-72 max-w-full"
          placeholder="all as the label says"
          value={deviation}
          onChange={(e) => setDeviation(e.target.value)}
        />
        {clamped && (
          <>
            ; the force of each clamp is{" "}
            <select
              aria-label="How the force is known"
              className="written max-w-full"
              value={known}
              onChange={(e) => setKnown(e.target.value as Known)}
            >
              <option value="measured">read from a gauge, joint by joint</option>
              <option value="estimated">set as planned, by turns or feel</option>
              <option value="unknown">not known</option>
            </select>
          </>
        )}
        .
      </p>
      {doubts && (
        <Notice>
          {mix.bottle}: {doubts}. It can be used; that stays with the pieces.
        </Notice>
      )}
      {asked && mix.bottle === null && (
        <Notice>Which bottle? Choose one, or “no bottle named”: it stays with every piece.</Notice>
      )}
      <p className="text-lg">
        {view.open_s !== null && <strong>Open for {clockOf(view.open_s)}</strong>}
        {view.pot_s !== null && <strong>, usable for {clockOf(view.pot_s)}</strong>}{" "}
        <span className="text-faded">{view.limits_text}</span>
      </p>
      {tooMany && (
        <Notice>
          One mix lasts for about {counted(view.joints_per_mix ?? 0, "joint")} at your pace: mix again for the
          rest, or leave some for later.
        </Notice>
      )}
      <Button
        look="bench"
        autoFocus
        onClick={() => {
          if (mix.bottle === null) setAsked(true);
          else
            taps.make({
              kind: "mixed",
              codes: view.pieces.map((p) => p.code),
              air_c: mix.air,
              humidity_pct: damp,
              bottle: mix.bottle,
              ratio,
              text: deviation,
              force_known: known,
            });
        }}
      >
        {view.pot_s === null ? "Glue is ready" : "Mixed just now"}
        <Key>Enter</Key>
      </Button>
    </div>
  );
}
