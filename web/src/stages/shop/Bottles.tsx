/** Bottles and kits of glue: what stands on the label, and what they went through. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useCatalogue, useWrite, writes } from "../../api/queries";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button, Notice, ProblemNote } from "../../parts/controls";
import { LabelFields, labelled } from "../../parts/LabelFields";
import { QuantityField } from "../../parts/QuantityField";
import { Photos } from "../../parts/Photos";
import { clock, counted, useCurrency, useUnits } from "../../parts/units";

type Bottle = Schemas["BottleView"];

const EMPTY: Schemas["BottleIn"] = {
  label: "",
  family: "",
  lot: "",
  opened_on: null,
  expires_on: null,
  note: "",
  limits: {},
  price: null,
  pack_g: null,
};

const NOTES: Readonly<Record<string, string>> = { looks: "thick paste", holds: "250 g" };

export function Bottles({ shop }: { shop: Schemas["ShopView"] }) {
  const { data: catalogue } = useCatalogue();
  const [form, setForm] = useState(EMPTY);
  const add = useWrite(writes.bottle);
  const money = useCurrency();
  const set = (part: Partial<Schemas["BottleIn"]>) => setForm((before) => ({ ...before, ...part }));
  return (
    <section aria-labelledby="bottles">
      <h2 id="bottles" className="mb-2 text-xl font-bold">
        Bottles and kits
      </h2>
      <ul className="mb-4">
        {shop.bottles.map((b) => (
          <One key={b.bottle.id} view={b} events={catalogue?.bottle_events ?? {}} />
        ))}
        {shop.bottles.length === 0 && <li className="text-faded">No bottle yet.</li>}
      </ul>
      <form
        className="leading-10"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate(form, { onSuccess: () => setForm(EMPTY) });
        }}
      >
        New:{" "}
        <input
          aria-label="Label of the bottle"
          className="written w-40"
          placeholder="what stands on it"
          value={form.label}
          onChange={(e) => set({ label: e.target.value })}
        />{" "}
        <ChoiceField
          label="Glue family"
          value={form.family}
          placeholder="which glue"
          choices={(catalogue?.glues ?? []).map((g) => [g.key, g.name] as const)}
          freeText
          onChange={(family) => set({ family })}
        />{" "}
        opened{" "}
        <input
          aria-label="Opened on"
          type="date"
          className="written"
          value={form.opened_on ?? ""}
          onChange={(e) => set({ opened_on: e.target.value || null })}
        />{" "}
        good until{" "}
        <input
          aria-label="Good until"
          type="date"
          className="written"
          value={form.expires_on ?? ""}
          onChange={(e) => set({ expires_on: e.target.value || null })}
        />
        ; its label says{" "}
        <LabelFields
          label="Label"
          limits={form.limits}
          problem={(key) => add.error?.of(`limits.${key}`)?.message}
          onChange={(limits) => set({ limits })}
        />
        . Lot{" "}
        <input
          aria-label="Lot"
          className="written w-24"
          value={form.lot ?? ""}
          onChange={(e) => set({ lot: e.target.value })}
        />
        , a pack of{" "}
        <QuantityField
          label="Glue in a pack"
          dimension="mass"
          unit="g"
          className="w-24"
          placeholder="500 g"
          value={form.pack_g ?? null}
          problem={add.error?.of("pack_g")?.message}
          onChange={(pack_g) => set({ pack_g })}
        />{" "}
        cost{" "}
        <QuantityField
          label="Price of a pack"
          dimension="number"
          className="w-20"
          value={form.price ?? null}
          problem={add.error?.of("price")?.message}
          onChange={(price) => set({ price })}
        />{" "}
        {money || "in money"}.{" "}
        <Button type="submit" className="leading-6" disabled={add.isPending}>
          Add the bottle
        </Button>
      </form>
      <ProblemNote problem={add.error} />
    </section>
  );
}

function One({ view: b, events }: { view: Bottle; events: Readonly<Record<string, string>> }) {
  const units = useUnits();
  const money = useCurrency();
  const label = labelled(b.bottle.limits ?? {}, units);
  return (
    <li className="border-t border-rule py-2">
      <span className="font-semibold wrap-anywhere">{b.bottle.label}</span>{" "}
      <span className="text-faded">{b.family_name}</span>
      {b.open_days !== null && <span className="text-faded">, open for {counted(b.open_days, "day")}</span>}
      {b.bottle.lot && <span className="text-faded">, lot {b.bottle.lot}</span>}
      {b.state && <span>, {b.state}</span>}
      {b.left_g !== null && (
        <span>
          , {units.typed(b.left_g, "mass", "g")} left
          {b.bottle.pack_g != null && b.left_g < b.bottle.pack_g && (
            <span className="text-faded"> of {units.typed(b.bottle.pack_g, "mass", "g")}</span>
          )}
        </span>
      )}
      {b.bottle.price != null && (
        <span className="text-faded">
          , {b.bottle.price} {money} a pack
        </span>
      )}
      {label && <p className="text-sm text-faded">Label: {label}.</p>}
      {b.warning && <Notice>{b.warning}</Notice>}
      <Happened view={b} events={events} />
      <Photos kind="bottle" name={b.bottle.label} />
    </li>
  );
}

/** What a bottle went through: what is glued later carries it. */
function Happened({ view: b, events }: { view: Bottle; events: Readonly<Record<string, string>> }) {
  const [kind, setKind] = useState("frozen");
  const [at, setAt] = useState("");
  const [note, setNote] = useState("");
  const tell = useWrite(writes.bottleEvent);
  return (
    <details className="text-sm">
      <summary className="cursor-pointer text-faded">
        what it went through{b.events.length > 0 && ` (${b.events.length})`}
      </summary>
      <ul>
        {b.events.map((e) => (
          <li key={e.at + e.kind}>
            {clock(e.at)}: {events[e.kind] ?? e.kind} {e.note}
          </li>
        ))}
      </ul>
      <form
        className="leading-9"
        onSubmit={(e) => {
          e.preventDefault();
          tell.mutate(
            { id: b.bottle.id, kind, note, at: at ? new Date(at).toISOString() : null },
            { onSuccess: () => setNote("") },
          );
        }}
      >
        It{" "}
        <select
          aria-label={`What happened to ${b.bottle.label}`}
          className="written"
          value={kind}
          onChange={(e) => setKind(e.target.value)}
        >
          {Object.entries(events).map(([key, name]) => (
            <option key={key} value={key}>
              {name}
            </option>
          ))}
        </select>{" "}
        <input
          aria-label={`How ${b.bottle.label} was`}
          className="written w-40"
          placeholder={NOTES[kind] ?? "note"}
          value={note}
          onChange={(e) => setNote(e.target.value)}
        />{" "}
        at{" "}
        <input
          type="datetime-local"
          aria-label={`When it happened to ${b.bottle.label}`}
          className="written"
          value={at}
          onChange={(e) => setAt(e.target.value)}
        />{" "}
        <Button type="submit" disabled={tell.isPending}>
          Write it down
        </Button>
      </form>
      <ProblemNote problem={tell.error} />
    </details>
  );
}
