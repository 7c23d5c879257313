/** What stays in the shop: who you are, your units, the bottles, the rig. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useShop, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { whenRead } from "../../parts/reading";
import { clock } from "../../parts/units";
import { Bench } from "./Bench";
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
        <Person shop={shop} />
        <Rig shop={shop} key={`${shop.rig?.id ?? 0} ${shop.set_up?.id ?? 0}`} />
        <Bench />
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
            onChange={(e) => save.mutate({ units: { ...shop.units, [dimension]: e.target.value } })}
          >
            {symbols.map((s) => (
              <option key={s}>{s}</option>
            ))}
          </select>
        ))}
      </p>
      <p className="text-sm leading-6 text-faded">Everything is stored in N, mm, MPa and s; your units are for showing and typing.</p>
      <ProblemNote problem={save.error} />
    </section>
  );
}

function Rig({ shop }: { shop: Schemas["ShopView"] }) {
  const rig = shop.rig;
  const [form, setForm] = useState<Schemas["RigIn"]>({
    name: rig?.name ?? "",
    port: rig?.port ?? "",
    capacity_n: rig?.capacity_n ?? 5000,
    resolution_n: rig?.resolution_n ?? 1,
    working_share: rig?.working_share ?? 0.8,
    fixture: shop.set_up?.fixture ?? "",
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
        <QuantityField label="Capacity" dimension="force" value={form.capacity_n} onChange={(v) => set({ capacity_n: v ?? 0 })} /> in steps of{" "}
        <QuantityField label="Step" dimension="force" value={form.resolution_n} onChange={(v) => set({ resolution_n: v ?? 0 })} />, is used up to{" "}
        <QuantityField
          label="Working share"
          dimension="share"
          className="w-20"
          value={100 * (form.working_share ?? 0.8)}
          onChange={(v) => set({ working_share: (v ?? 0) / 100 })}
        />{" "}
        of that, holds the piece with {text("fixture", "Fixture", "shear fixture 1", "w-48")} and is plugged in at{" "}
        {text("port", "Port", "/dev/ttyUSB0, or empty", "w-64 font-mono")}.
      </p>
      <p className="leading-10">
        A change of fixture, load point or zero starts a new set-up: {text("reason", "What changed", "what changed, if anything", "w-64")}
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
      {shop.set_up && (
        <p className="mt-2 text-sm text-faded">
          Set-up {shop.set_up.id} since {clock(shop.set_up.at)}. Readings keep the set-up they were made under.
        </p>
      )}
    </section>
  );
}
