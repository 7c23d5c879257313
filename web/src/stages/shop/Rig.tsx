/** The load rig: what it measures, how the load follows from that, its set-up, and its known weights. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { saveRig, takeUp, usePreview } from "../../api/rigs";
import { Button, ProblemNote } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { RigState } from "../../parts/RigState";
import { clock, unitOfMass, useUnits } from "../../parts/units";
import { KnownWeights } from "./KnownWeights";

type Form = Schemas["RigIn"];
type Instrument = Schemas["InstrumentIn"];
type Measures = Schemas["Measures"];

/** What it measures: in words, its dimension, and the units that such an instrument shows. */
const MEASURES: Readonly<Record<Measures, readonly [string, string, readonly string[]]>> = {
  force: ["a force", "force", ["N", "kN", "kgf", "lbf"]],
  mass: ["a mass, hung or pushed", "force", ["kgf", "lbf"]],
  pressure: ["the pressure in a cylinder", "stress", ["MPa", "bar", "psi", "kgf/cm²"]],
  moment: ["a moment", "moment", ["N·m", "lbf·ft"]],
  travel: ["travel only", "length", ["mm", "in"]],
};

const blank: Instrument = {
  measures: "force",
  unit: "N",
  lever: 1,
  tare_n: 0,
  piston_mm2: null,
  arm_mm: null,
  own_n: 0,
  own_at: 0,
};

function formOf(shop: Schemas["ShopView"]): Form {
  const used = shop.rig?.set_up;
  const i = used?.instrument;
  return {
    name: used?.rig ?? "",
    port: shop.rig?.port ?? "",
    capacity: shop.rig_state?.capacity ?? 5000,
    step: shop.rig_state?.step ?? 1,
    working_share: used?.working_share ?? 0.8,
    fixture: used?.fixture ?? "",
    reason: "",
    instrument: i
      ? {
          measures: i.measures,
          unit: i.unit,
          lever: i.lever,
          tare_n: i.tare_n,
          piston_mm2: i.piston_mm2,
          arm_mm: i.arm_mm,
          own_n: i.own_n,
          own_at: i.own_at,
        }
      : blank,
    pattern: used?.pattern ?? "",
    calibration: null,
    load_point: used?.load_point ?? "",
    weakest: used?.weakest ?? "",
    weakest_n: used?.weakest_n ?? null,
  };
}

export function Rig({ shop }: { shop: Schemas["ShopView"] }) {
  const rig = shop.rig?.set_up;
  const [form, setForm] = useState<Form>(() => formOf(shop));
  const save = useWrite(saveRig);
  const set = (change: Partial<Form>) => setForm((before) => ({ ...before, ...change }));
  const i = form.instrument ?? blank;
  // Several fields may be read in the same moment: each builds upon what the one before it left.
  const setInstrument = (change: Partial<Instrument>) =>
    setForm((before) => ({ ...before, instrument: { ...(before.instrument ?? blank), ...change } }));
  const setMeasures = (change: Partial<Instrument>) =>
    // A range in newtons is none in MPa.
    set({
      instrument: { ...i, ...change },
      ...(change.measures && MEASURES[change.measures][1] !== dimension ? { capacity: 0, step: 0 } : {}),
    });
  const [, dimension] = MEASURES[i.measures ?? "force"];
  const text = (
    key: "name" | "port" | "fixture" | "reason" | "load_point" | "weakest",
    label: string,
    hint: string,
    width: string,
  ) => (
    <input
      aria-label={label}
      className={`written ${width}`}
      placeholder={hint}
      value={form[key] ?? ""}
      aria-invalid={save.error?.of(key) ? true : undefined}
      onChange={(e) => set({ [key]: e.target.value })}
    />
  );
  const shownUnit = i.measures === "force" ? {} : { unit: i.unit ?? "" };
  return (
    <section aria-labelledby="rig">
      <h2 id="rig" className="mb-1 text-xl font-bold">
        Load rig
      </h2>
      <p className="leading-10">
        It is called {text("name", "Name of the rig", "bench press", "w-40")}, measures{" "}
        <Reads i={i} onChange={setMeasures} />, reads up to{" "}
        <QuantityField
          key={`capacity ${dimension}`}
          label="Capacity"
          dimension={dimension}
          {...shownUnit}
          needed
          value={form.capacity}
          onChange={(v) => set({ capacity: v ?? 0 })}
        />{" "}
        in steps of{" "}
        <QuantityField
          key={`step ${dimension}`}
          label="Step"
          dimension={dimension}
          {...shownUnit}
          needed
          value={form.step}
          onChange={(v) => set({ step: v ?? 0 })}
        />
        , is used up to{" "}
        <QuantityField
          label="Working share"
          dimension="share"
          className="w-20"
          needed
          value={100 * (form.working_share ?? 0.8)}
          onChange={(v) => set({ working_share: (v ?? 0) / 100 })}
        />{" "}
        of that, holds the piece with {text("fixture", "Fixture", "shear fixture 1", "w-48")} and is plugged
        in at {text("port", "Port", "/dev/ttyUSB0, or empty", "w-64 font-mono")}.
      </p>
      <p className="leading-10">
        The load acts{" "}
        {text("load_point", "Where the load acts", "in the middle, 5 mm off the line …", "w-64")}. Its weakest
        part is {text("weakest", "Weakest part", "a shackle, the fixture …", "w-48")}, which bears{" "}
        <QuantityField
          label="What the weakest part bears"
          dimension="force"
          className="w-40"
          placeholder="more than that"
          value={form.weakest_n ?? null}
          onChange={(v) => set({ weakest_n: v })}
        />
        .
      </p>
      {i.measures !== "travel" && <OnThePiece i={i} onChange={setInstrument} />}
      <Lines form={form} onPattern={(pattern) => set({ pattern })} />
      {i.measures !== "travel" && (
        <KnownWeights
          shop={shop}
          unit={i.unit ?? ""}
          rows={form.calibration ?? null}
          onChange={(calibration) => set({ calibration })}
        />
      )}
      <p className="leading-10">
        Any change starts a new set-up: {text("reason", "What changed", "what changed, if anything", "w-64")}
      </p>
      <ProblemNote problem={save.error} />
      <p className="my-2 flex flex-wrap items-center gap-4">
        <Button look="main" onClick={() => save.mutate(form)} disabled={save.isPending}>
          Save and connect
        </Button>
        <span role="status" className="text-sm text-faded">
          {shop.link_message}
        </span>
      </p>
      {rig && (
        <p className="mt-2 text-sm text-faded">
          Set-up {rig.id} since {clock(rig.at)}. Readings keep the set-up they were made under.
        </p>
      )}
      {shop.rig_state && <RigState state={shop.rig_state} />}
      <Earlier shop={shop} />
    </section>
  );
}

function Reads({ i, onChange }: { i: Instrument; onChange: (change: Partial<Instrument>) => void }) {
  const measures = i.measures ?? "force";
  return (
    <>
      <select
        aria-label="What it measures"
        className="written"
        value={measures}
        onChange={(e) => {
          const to = e.target.value as Measures;
          onChange({ measures: to, unit: MEASURES[to][2][0] ?? "" });
        }}
      >
        {Object.entries(MEASURES).map(([key, [name]]) => (
          <option key={key} value={key}>
            {name}
          </option>
        ))}
      </select>{" "}
      in{" "}
      <select
        aria-label="Unit that it shows"
        className="written"
        value={i.unit}
        onChange={(e) => onChange({ unit: e.target.value })}
      >
        {MEASURES[measures][2].map((u) => (
          <option key={u} value={u}>
            {measures === "mass" ? unitOfMass(u) : u}
          </option>
        ))}
      </select>
    </>
  );
}

/** How the load on the piece follows from what is shown. */
function OnThePiece({ i, onChange }: { i: Instrument; onChange: (change: Partial<Instrument>) => void }) {
  return (
    <p className="leading-10">
      {i.measures === "pressure" && (
        <>
          Its piston has{" "}
          <QuantityField
            label="Area of the piston"
            dimension="area"
            value={i.piston_mm2 ?? null}
            placeholder="800 mm²"
            onChange={(v) => onChange({ piston_mm2: v })}
          />
          .{" "}
        </>
      )}
      {i.measures === "moment" && (
        <>
          The load is at an arm of{" "}
          <QuantityField
            label="Arm of the moment"
            dimension="length"
            value={i.arm_mm ?? null}
            placeholder="400 mm"
            onChange={(v) => onChange({ arm_mm: v })}
          />
          .{" "}
        </>
      )}
      One newton at the instrument is{" "}
      <QuantityField
        label="Lever"
        dimension="number"
        className="w-16"
        needed
        value={i.lever ?? 1}
        onChange={(v) => onChange({ lever: v ?? 1 })}
      />{" "}
      on the piece, on which{" "}
      <QuantityField
        label="Tare"
        dimension="force"
        needed
        value={i.tare_n ?? 0}
        onChange={(v) => onChange({ tare_n: v ?? 0 })}
      />{" "}
      hang anyhow. The lever itself weighs{" "}
      <QuantityField
        label="Weight of the lever"
        dimension="force"
        needed
        value={i.own_n ?? 0}
        onChange={(v) => onChange({ own_n: v ?? 0 })}
      />
      , its centre at{" "}
      <QuantityField
        label="Centre of the lever"
        dimension="number"
        className="w-16"
        needed
        value={Math.abs(i.own_at ?? 0)}
        onChange={(v) => onChange({ own_at: (v ?? 0) * ((i.own_at ?? 0) < 0 ? -1 : 1) })}
      />{" "}
      of the arm, and acts{" "}
      <select
        aria-label="How the lever's weight acts"
        className="written"
        value={(i.own_at ?? 0) < 0 ? "against" : "with"}
        onChange={(e) =>
          onChange({ own_at: (Math.abs(i.own_at ?? 0) || 0.5) * (e.target.value === "against" ? -1 : 1) })
        }
      >
        <option value="with">with the load</option>
        <option value="against">against it</option>
      </select>
      .
    </p>
  );
}

/** What a foreign indicator sends, and what is understood of it. */
function Lines({ form, onPattern }: { form: Form; onPattern: (pattern: string) => void }) {
  const [open, setOpen] = useState(Boolean(form.pattern));
  const units = useUnits();
  const i = form.instrument ?? blank;
  const preview = usePreview({ instrument: i, pattern: form.pattern ?? "", lines: [] }, open);
  const lines = preview.data?.lines ?? [];
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)} className="my-1">
      <summary className="cursor-pointer text-faded">Lines of another make of indicator</summary>
      <label className="block leading-10">
        The load is in column, or found by the expression{" "}
        <input
          className="written w-64 font-mono"
          placeholder="empty: lines as documented"
          value={form.pattern ?? ""}
          onChange={(e) => onPattern(e.target.value)}
        />
      </label>
      {preview.error ? (
        <p className="text-sm text-alarm">{preview.error.message}</p>
      ) : lines.length === 0 ? (
        <p className="text-sm text-faded">
          Nothing has come yet: give the port, and save. What comes is shown here, with what is read in it.
        </p>
      ) : (
        <table className="text-sm">
          <thead>
            <tr className="head text-left">
              <th className="pr-6">As it came</th>
              <th>Load on the piece</th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line, n) => (
              <tr key={n} className="border-t border-rule">
                <td className="pr-6 font-mono">{line.text}</td>
                <td className="tabular-nums">
                  {line.load_n === null ? (
                    <span className="text-faded">not understood</span>
                  ) : (
                    units.text(line.load_n, "force")
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </details>
  );
}

/** Set-ups of before, each with its own range: one takes the rig and fixture up again as they were. */
function Earlier({ shop }: { shop: Schemas["ShopView"] }) {
  const units = useUnits();
  const again = useWrite(takeUp);
  const others = shop.earlier.filter((s) => s.id !== shop.rig?.set_up.id);
  if (!others.length) return null;
  return (
    <details className="mt-1 text-sm">
      <summary className="cursor-pointer text-faded">Earlier set-ups ({others.length})</summary>
      <ProblemNote problem={again.error} />
      <ul>
        {others.map((s) => (
          <li key={s.id} className="flex flex-wrap items-baseline gap-x-3 border-t border-rule py-1">
            <span>
              {[s.rig, s.fixture || "no fixture named", `up to ${units.typed(s.capacity_n, "force")}`].join(
                ", ",
              )}
              {s.instrument?.tare_n ? `, tare ${units.typed(s.instrument.tare_n, "force")}` : ""}
              {s.load_point && `, load ${s.load_point}`}, since {clock(s.at)}
              {s.reason && `: ${s.reason}`}
            </span>
            <Button look="quiet" disabled={again.isPending} onClick={() => again.mutate(s.id)}>
              Take it up again
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
