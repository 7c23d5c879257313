/** What stays in the shop: who you are, your units, the bottles, the rig. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShop, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { whenRead } from "../../parts/reading";
import { ShopUndoBar } from "../../parts/UndoBar";
import { clock, useUnits } from "../../parts/units";
import { WorkingHours } from "./WorkingHours";
import { Boards } from "./Boards";
import { Climate } from "./Climate";
import { Bottles } from "./Bottles";

const UNIT_CHOICES: Record<string, readonly string[]> = {
  length: ["mm", "in"],
  force: ["N", "kN", "kgf", "lbf"],
  stress: ["MPa", "psi", "kgf/cm²"],
  temperature: ["°C", "°F"],
};

export default function ShopPage() {
  const { data: shop } = useShop();
  if (!shop) return <Waiting what="the shop" />;
  return (
    <div className="grid gap-10 lg:grid-cols-2">
      <div>
        <h1 className="mb-3 text-2xl font-bold">Shop</h1>
        <ShopUndoBar />
        <Person shop={shop} />
        <Rig shop={shop} key={`${shop.rig?.set_up.id ?? 0} ${shop.rig?.port ?? ""}`} />
        <WorkingHours />
        <Climate />
      </div>
      <div>
        <Bottles shop={shop} />
        <Boards shop={shop} />
      </div>
    </div>
  );
}

function Person({ shop }: { shop: Schemas["ShopView"] }) {
  const [name, setName] = useState(shop.person);
  const [currency, setCurrency] = useState(shop.currency);
  // Areas, moments and loads per length follow from these, and are not chosen.
  const chosen = Object.fromEntries(
    Object.keys(UNIT_CHOICES).map((dimension) => [dimension, shop.units[dimension] ?? ""]),
  );
  const save = useWrite(writes.settings);
  return (
    <section aria-label="You and your units" className="mb-8 leading-9">
      <p>
        At this bench works{" "}
        <input
          aria-label="Name"
          className="written w-48"
          value={name}
          placeholder="a name or a role"
          onChange={(e) => setName(e.target.value)}
          onBlur={() => name !== shop.person && save.mutate({ person: name })}
        />
        , who thinks in{" "}
        {Object.entries(UNIT_CHOICES).map(([dimension, symbols]) => (
          <select
            key={dimension}
            aria-label={`Unit of ${dimension}`}
            className="written mr-2"
            value={shop.units[dimension]}
            onChange={(e) => save.mutate({ units: { ...chosen, [dimension]: e.target.value } })}
          >
            {symbols.map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
        ))}
        and counts money in{" "}
        <input
          aria-label="Currency"
          className="written w-20"
          value={currency}
          placeholder="sign"
          onChange={(e) => setCurrency(e.target.value)}
          onBlur={() => currency !== shop.currency && save.mutate({ currency })}
        />
        . No piece shorter than{" "}
        <QuantityField
          label="Safe length at the machines"
          dimension="length"
          className="w-24"
          value={shop.safe_length_mm}
          problem={save.error?.of("safe_length_mm")?.message}
          onChange={(v) => v !== null && save.mutate({ safe_length_mm: v })}
        />{" "}
        goes over a machine by hand.
      </p>
      <p className="flex flex-wrap gap-x-3 text-sm leading-7">
        <span className="text-faded">All at once:</span>
        {Object.entries(shop.systems).map(([system, units]) => (
          <Button key={system} look="quiet" onClick={() => save.mutate({ units })}>
            {system}
          </Button>
        ))}
      </p>
      <p className="text-sm leading-6 text-faded">
        Everything is stored in N, mm, MPa and s; your units are for showing and typing.
      </p>
      <ProblemNote problem={save.error} />
    </section>
  );
}

function Rig({ shop }: { shop: Schemas["ShopView"] }) {
  const rig = shop.rig?.set_up;
  const [form, setForm] = useState<Schemas["RigIn"]>({
    name: rig?.rig ?? "",
    port: shop.rig?.port ?? "",
    capacity_n: rig?.capacity_n ?? 5000,
    resolution_n: rig?.resolution_n ?? 1,
    working_share: rig?.working_share ?? 0.8,
    fixture: rig?.fixture ?? "",
    reason: "",
  });
  const save = useWrite(writes.rig);
  const set = (change: Partial<Schemas["RigIn"]>) => setForm((before) => ({ ...before, ...change }));
  const text = (key: "name" | "port" | "fixture" | "reason", label: string, hint: string, width: string) => (
    <input
      aria-label={label}
      className={`written ${width}`}
      placeholder={hint}
      value={form[key] ?? ""}
      aria-invalid={save.error?.of(key) ? true : undefined}
      onChange={(e) => set({ [key]: e.target.value })}
    />
  );
  return (
    <section aria-labelledby="rig">
      <h2 id="rig" className="mb-1 text-xl font-bold">
        Load rig
      </h2>
      <p className="leading-10">
        It is called {text("name", "Name of the rig", "bench press", "w-40")}, reads up to{" "}
        <QuantityField
          label="Capacity"
          dimension="force"
          needed
          value={form.capacity_n}
          onChange={(v) => set({ capacity_n: v ?? 0 })}
        />{" "}
        in steps of{" "}
        <QuantityField
          label="Step"
          dimension="force"
          needed
          value={form.resolution_n}
          onChange={(v) => set({ resolution_n: v ?? 0 })}
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
        A change of fixture, load point or zero starts a new set-up:{" "}
        {text("reason", "What changed", "what changed, if anything", "w-64")}
      </p>
      <ProblemNote problem={save.error} />
      <p className="mt-2 flex flex-wrap items-center gap-4">
        <Button look="main" onClick={whenRead(() => save.mutate(form))} disabled={save.isPending}>
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
      <Earlier shop={shop} onTake={(s) => save.mutate(again(s, shop.rig?.port ?? ""))} />
    </section>
  );
}

type SetUp = Schemas["SetUp"];

const again = (s: SetUp, port: string): Schemas["RigIn"] => ({
  name: s.rig,
  port,
  capacity_n: s.capacity_n,
  resolution_n: s.resolution_n,
  working_share: s.working_share,
  fixture: s.fixture,
  reason: "",
});

/** Set-ups of before, each with its own range: one takes the rig and fixture up again as they were. */
function Earlier({ shop, onTake }: { shop: Schemas["ShopView"]; onTake: (s: SetUp) => void }) {
  const units = useUnits();
  const others = shop.earlier.filter((s) => s.id !== shop.rig?.set_up.id);
  if (!others.length) return null;
  return (
    <details className="mt-1 text-sm">
      <summary className="cursor-pointer text-faded">Earlier set-ups ({others.length})</summary>
      <ul>
        {others.map((s) => (
          <li key={s.id} className="flex flex-wrap items-baseline gap-x-3 border-t border-rule py-1">
            <span>
              {[s.rig, s.fixture || "no fixture named", `up to ${units.typed(s.capacity_n, "force")}`].join(
                ", ",
              )}
              , since {clock(s.at)}
              {s.reason && `: ${s.reason}`}
            </span>
            <Button look="quiet" onClick={() => onTake(s)}>
              Take it up again
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
