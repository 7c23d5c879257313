/** A glue-up as a sentence: what was spread, in what air, and how hard it is pressed. */
import { CountField } from "../../parts/CountField";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite, writes } from "../../api/queries";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button, DoubtNote, Notice } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { useUnits } from "../../parts/units";
import { NOW, told, ToldTimes, type Times } from "./ToldTimes";

/** A means of pressing in the words of the list. */
const pressedIn = (view: Schemas["GlueView"], key: string) => {
  const name = view.means.find(([k]) => k === key)?.[1].toLowerCase() ?? key;
  return key === "hand" ? name : key === "nothing" ? "with nothing on it" : `by ${name}`;
};

interface Props {
  batch: number;
  view: Schemas["GlueView"];
  pieces: readonly Schemas["GluePiece"][];
  onDone: () => void;
}

export function GlueupForm({ batch, view, pieces, onDone }: Props) {
  const units = useUnits();
  const [bottle, setBottle] = useState("");
  const [air, setAir] = useState<number | null>(null);
  const [humidity, setHumidity] = useState<number | null>(null);
  const [force, setForce] = useState<number | null>(null);
  const [clamps, setClamps] = useState(1);
  const [over, setOver] = useState(1);
  const [known, setKnown] = useState<Schemas["GlueupIn"]["force_known"]>("estimated");
  const [note, setNote] = useState("");
  const [mixedAt, setMixedAt] = useState("");
  const [times, setTimes] = useState<Times>(NOW);
  const [means, setMeans] = useState("");
  const [deviation, setDeviation] = useState("");
  const save = useWrite((body: Schemas["GlueupIn"]) => writes.glueup(batch, body), batch);
  const area = pieces.length ? pieces.reduce((sum, p) => sum + p.pressed_mm2, 0) / pieces.length : null;
  const wanted = pieces[0]?.wanted_mpa ?? null;
  const mixed = new Set(pieces.map((p) => p.wanted_mpa)).size > 1;
  const needed = area !== null && wanted !== null ? (wanted * area * over) / clamps : null;
  const line = Math.max(1, ...pieces.map((p) => p.clamps_wanted));
  const caul = pieces.find((p) => p.clamps_wanted === line)?.cauls.find(([n]) => n === clamps)?.[1];
  const pressure = area !== null && force !== null ? (force * clamps) / (area * over) : null;
  const families = new Set(pieces.map((p) => p.glue));
  const bottles = view.bottles;
  const planned = new Set(pieces.map((p) => p.wanted_by).filter(Boolean));
  const isFree = view.clampless.includes(means);
  const family = bottles.find(([label]) => label === bottle)?.[1];

  return (
    <form
      className="sheet px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(
          {
            codes: pieces.map((p) => p.code),
            bottle,
            air_c: air,
            humidity_pct: humidity,
            force_n: isFree ? null : force,
            clamps,
            force_known: known,
            faces: "one",
            note,
            mixed_at: mixedAt ? new Date(mixedAt).toISOString() : null,
            ratio: "",
            deviation,
            over: clamps === 1 && !isFree ? over : 1,
            pressed_by: means,
            ...told(times, pieces),
          },
          { onSuccess: onDone },
        );
      }}
    >
      <p className="leading-10">
        Glue <strong>{pieces.length || "the chosen"}</strong> joints {times.begun ? "then" : "now"} from{" "}
        <ChoiceField
          label="Bottle"
          className="w-36"
          value={bottle}
          placeholder="bottle"
          freeText
          choices={bottles.map(([label, , holds]) => [label, `${label}: ${holds}`] as const)}
          onChange={setBottle}
        />{" "}
        at{" "}
        <QuantityField
          label="Air temperature"
          dimension="temperature"
          value={air}
          onChange={setAir}
          placeholder={units.symbol("temperature")}
          className="w-20"
        />{" "}
        and{" "}
        <QuantityField
          label="Humidity"
          dimension="share"
          value={humidity}
          onChange={setHumidity}
          placeholder="%"
          className="w-20"
        />{" "}
        humidity; press each by{" "}
        <select
          aria-label="Pressed by"
          className="written"
          value={means}
          onChange={(e) => setMeans(e.target.value)}
        >
          <option value="">a clamp or weight</option>
          {view.means.map(([key, name]) => (
            <option key={key} value={key}>
              {name.toLowerCase()}
            </option>
          ))}
        </select>
        {!isFree && (
          <>
            : <CountField label="Clamps for each joint" max={50} value={clamps} onChange={setClamps} />{" "}
            {clamps === 1 ? "clamp" : "clamps"}
            {clamps === 1 && (
              <>
                {" "}
                over <CountField
                  label="Joints under one clamp"
                  max={50}
                  value={over}
                  onChange={setOver}
                />{" "}
                {over === 1 ? "joint" : "joints side by side"}
              </>
            )}{" "}
            of{" "}
            <QuantityField
              label="Force of each clamp"
              dimension="force"
              value={force}
              onChange={setForce}
              placeholder={needed !== null ? units.text(needed, "force") : units.symbol("force")}
              className="w-28"
            />
            ,{" "}
            <select
              aria-label="How the force is known"
              className="written"
              value={known}
              onChange={(e) => setKnown(e.target.value as typeof known)}
            >
              <option value="measured">measured</option>
              <option value="estimated">estimated</option>
              <option value="unknown">not known</option>
            </select>
          </>
        )}
        ; mixed at{" "}
        <input
          type="datetime-local"
          aria-label="Mixed at"
          className="written"
          value={mixedAt}
          onChange={(e) => setMixedAt(e.target.value)}
        />
        ,{" "}
        <input
          aria-label="What was not as the label says"
          className="written w-56"
          placeholder="all as the label says"
          value={deviation}
          onChange={(e) => setDeviation(e.target.value)}
        />
        .{" "}
        <input
          aria-label="Note"
          className="written w-56"
          placeholder="note"
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />
      </p>
      <ToldTimes times={times} pieces={pieces} isFree={isFree} onChange={setTimes} />
      <p className="text-sm text-faded">
        {needed !== null && !mixed && !isFree && (
          <>
            For {units.text(wanted, "stress")} on {units.text(area, "area")} each clamp must give{" "}
            {units.text(needed, "force")}.{" "}
          </>
        )}
        {mixed && "The chosen joints want different pressures. "}
        {pressure !== null && !isFree && (
          <strong className="text-ink">
            {units.text(force! * clamps, "force")} give {units.text(pressure, "stress")}.
          </strong>
        )}
      </p>
      {line > clamps && (
        <Notice>
          Pressed evenly, a line of this length takes {line} clamps
          {caul !== undefined &&
            `, or a caul of ${units.text(caul, "length")} under ${clamps === 1 ? "it" : `these ${clamps}`}`}
          .
        </Notice>
      )}
      {family && families.size > 0 && !families.has(family) && (
        <Notice>The chosen joints are planned with another glue than the one in {bottle}.</Notice>
      )}
      {planned.size > 0 && !(planned.size === 1 && planned.has(means)) && (
        <Notice>
          The plan presses {planned.size === 1 ? "these" : "some of these"}{" "}
          {[...planned].map((m) => pressedIn(view, m)).join(", others ")}.
        </Notice>
      )}
      <DoubtNote
        problem={save.error}
        busy={save.isPending}
        act="Glue with it"
        agreed={save.variables?.confirmed ?? []}
        onConfirm={(confirmed) => {
          if (save.variables) save.mutate({ ...save.variables, confirmed }, { onSuccess: onDone });
        }}
      />
      <Button type="submit" look="main" className="mt-2" disabled={!pieces.length || save.isPending}>
        Write down this glue-up
      </Button>
    </form>
  );
}
