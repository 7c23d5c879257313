/** The weights that are there to be hung on a piece. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useWrite } from "../../api/queries";
import { saveRack } from "../../api/session";
import { Button, ProblemNote } from "../../parts/controls";
import { CountField } from "../../parts/CountField";
import { QuantityField } from "../../parts/QuantityField";
import { unitOfWeights, useUnits } from "../../parts/units";

interface Kind {
  mass_g: number | null;
  count: number;
}

export function Rack({ shop }: { shop: Schemas["ShopView"] }) {
  const [kinds, setKinds] = useState<Kind[]>(() =>
    shop.rack.weights.map(([mass_g, count]) => ({ mass_g, count })),
  );
  const [hanger, setHanger] = useState(shop.rack.hanger_g);
  const [vessel, setVessel] = useState(shop.rack.vessel_g);
  const unit = unitOfWeights(useUnits());
  const save = useWrite(saveRack);
  const put = (n: number, change: Partial<Kind>) =>
    setKinds((all) => all.map((k, i) => (i === n ? { ...k, ...change } : k)));
  const body = (): Schemas["RackIn"] => ({
    weights: kinds
      .filter((k) => k.mass_g)
      .map((k) => ({ mass_g: Math.round(k.mass_g ?? 0), count: k.count })),
    hanger_g: Math.round(hanger),
    vessel_g: Math.round(vessel),
  });
  return (
    <section aria-labelledby="rack" className="mb-8">
      <h2 id="rack" className="mb-1 text-xl font-bold">
        Weights to hang
      </h2>
      <ul>
        {kinds.map((k, n) => (
          <li key={n} className="leading-10">
            <CountField
              label={`How many of weight ${n + 1}`}
              value={k.count}
              min={0}
              max={100}
              onChange={(count) => put(n, { count })}
            />{" "}
            of{" "}
            <QuantityField
              label={`Mass of weight ${n + 1}`}
              dimension="mass"
              unit={unit}
              value={k.mass_g}
              placeholder="10 kg"
              onChange={(mass_g) => put(n, { mass_g })}
            />{" "}
            <Button look="quiet" onClick={() => setKinds((all) => all.filter((_, i) => i !== n))}>
              gone
            </Button>
          </li>
        ))}
      </ul>
      <p className="leading-10">
        <Button onClick={() => setKinds((all) => [...all, { mass_g: null, count: 1 }])}>
          Another weight
        </Button>{" "}
        With them hang{" "}
        <QuantityField
          label="Hanger and platform"
          dimension="mass"
          unit={unit}
          needed
          value={hanger}
          onChange={(v) => setHanger(v ?? 0)}
        />{" "}
        of hanger; a vessel to fill instead holds{" "}
        <QuantityField
          label="What a vessel holds"
          dimension="mass"
          unit={unit}
          needed
          value={vessel}
          onChange={(v) => setVessel(v ?? 0)}
        />
        .{" "}
        <Button
          look="main"
          disabled={save.isPending}
          onClick={() => save.mutate({ ...body(), weights: body().weights.filter((k) => k.count > 0) })}
        >
          Save the weights
        </Button>
      </p>
      <ProblemNote problem={save.error} />
    </section>
  );
}
