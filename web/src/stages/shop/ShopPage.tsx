/** What stays in the shop: who you are, your units, the bottles, the rig. */
import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import type { Schemas } from "../../api/client";
import { useShop, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote, Waiting } from "../../parts/controls";
import { QuantityField } from "../../parts/QuantityField";
import { ShopUndoBar } from "../../parts/UndoBar";
import { WorkingHours } from "./WorkingHours";
import { Boards } from "./Boards";
import { Climate } from "./Climate";
import { Copies } from "./Copies";
import { Looks } from "./Looks";
import { Network } from "./Network";
import { Bottles } from "./Bottles";
import { Rack } from "./Rack";
import { Rig } from "./Rig";
import { ThisDevice } from "./ThisDevice";

const UNIT_CHOICES: Record<string, readonly string[]> = {
  length: ["mm", "in"],
  force: ["N", "kN", "kgf", "lbf"],
  stress: ["MPa", "psi", "kgf/cm²"],
  temperature: ["°C", "°F"],
};

export default function ShopPage() {
  const { data: shop } = useShop();
  const { hash } = useLocation();
  useEffect(() => {
    if (!hash) return;
    // Each part of the shop comes when its own data does.
    let tries = 0;
    const timer = setInterval(() => {
      const part = document.getElementById(hash.slice(1));
      part?.scrollIntoView();
      if (part || ++tries > 50) clearInterval(timer);
    }, 100);
    return () => clearInterval(timer);
  }, [hash]);
  if (!shop) return <Waiting what="the shop" />;
  return (
    <div className="grid gap-10 lg:grid-cols-2">
      <div>
        <h1 className="mb-3 text-2xl font-bold">Shop</h1>
        <ShopUndoBar of="shop" />
        <Person shop={shop} />
        <Rig shop={shop} key={`${shop.rig?.set_up.id ?? 0} ${shop.rig?.port ?? ""}`} />
        <Rack shop={shop} key={JSON.stringify(shop.rack)} />
        <WorkingHours />
        <Climate />
        <Network />
        <Copies />
        <Looks />
        <ThisDevice />
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
