/** What the glues of the plan are: family, product, and what their labels ask for. */
import type { Schemas } from "../../api/client";
import { ChoiceField } from "../../parts/ChoiceField";
import { LabelFields } from "../../parts/LabelFields";
import { QuantityField } from "../../parts/QuantityField";
import { Line, type PlanProps } from "./common";
import type { Level } from "./draft";

type Product = Schemas["ProductIn"];
/** As many glues stand open; more are told on request. */
const FEW = 6;
const EMPTY: Product = {
  family: "",
  label: {},
  bottle: null,
  grade: "",
  thickness: "",
  additive: "",
  thinned_pct: null,
};

export function Glues(props: PlanProps) {
  const { draft, catalogue, locked } = props;
  const { document: d, change } = draft;
  const families = new Map(catalogue.glues.map((g) => [g.key, g.name]));
  const levels: Level[] = [
    ...d.factors.filter((f) => f.key === "glue").flatMap((f) => f.levels),
    ...(d.factors.some((f) => f.key === "glue") || !d.constants["glue"] ? [] : [d.constants["glue"]]),
    ...(d.extras ?? []).flatMap((e) => e.changes["glue"] ?? []),
  ];
  const values = [...new Set(levels.map((l) => l.value))].filter(
    (v) => typeof v === "string" && v !== "none",
  );
  const byLabel = d.policy === "by-label";
  const own = values.filter((v) => !families.has(String(v)));
  const shown = byLabel ? values : own;
  if (!shown.length) return null;
  const set = (name: string, part: Partial<Product>) => {
    const products = d.products ?? {};
    change({ products: { ...products, [name]: { ...EMPTY, ...products[name], ...part } } });
  };
  const unknown = own.map(String).filter((v) => !d.products?.[v]?.family && !d.products?.[v]?.bottle);
  const rows = (
    <ul className="my-1 text-sm leading-6" aria-label="What the glues are">
      {shown.map((value) => (
        <One key={String(value)} {...props} name={String(value)} families={families} set={set} />
      ))}
    </ul>
  );
  return (
    <>
      {unknown.length > 1 && !locked && (
        <p className="text-sm">
          {unknown.length} glues are of no known family; all of them are{" "}
          <ChoiceField
            label="Family of all that have none"
            value=""
            placeholder="of the family …"
            choices={[...families]}
            onChange={(family) => {
              const more = unknown.map((v) => [v, { ...EMPTY, ...d.products?.[v], family }] as const);
              change({ products: { ...d.products, ...Object.fromEntries(more) } });
            }}
          />
        </p>
      )}
      {shown.length > FEW ? (
        <details>
          <summary className="cursor-pointer text-sm text-faded">
            What the {shown.length} glues are, and what their labels say
          </summary>
          {rows}
        </details>
      ) : (
        rows
      )}
    </>
  );
}

interface OneProps extends PlanProps {
  name: string;
  families: ReadonlyMap<string, string>;
  set: (name: string, part: Partial<Product>) => void;
}

function One({ draft, view, catalogue, locked, name, families, set }: OneProps) {
  const says = view.forecast.glues.find((g) => g.value === name);
  const product = draft.document.products?.[name];
  const isOwn = !families.has(name);
  return (
    <li className="border-l-2 border-rule pl-3">
      <strong className="wrap-anywhere">{families.get(name) ?? name}</strong>{" "}
      {isOwn && <Family {...{ name, product, says, locked, set, catalogue }} />}
      <span className="text-faded">
        {says
          ? ` ${says.words} (${says.by_label ? "by its label" : "usual for the family"})`
          : " nothing is known of its label"}
        .
      </span>
      {isOwn && !locked && !product?.bottle && (
        <Details name={name} product={product ?? EMPTY} problems={view.forecast.problems} set={set} />
      )}
    </li>
  );
}

interface FamilyProps {
  name: string;
  product: Product | undefined;
  says: Schemas["GlueInPlan"] | undefined;
  locked: boolean;
  catalogue: Schemas["CatalogueView"];
  set: (name: string, part: Partial<Product>) => void;
}

function Family({ name, product, says, locked, catalogue, set }: FamilyProps) {
  if (product?.bottle)
    return <>is a bottle of the shop{says?.family && ` (${says.family.toLowerCase()})`}:</>;
  return (
    <>
      is of the family{" "}
      <ChoiceField
        label={`Family of ${name}`}
        value={product?.family ?? ""}
        placeholder="none that is known"
        choices={catalogue.glues.map((g) => [g.key, g.name] as const)}
        disabled={locked}
        onChange={(family) => set(name, { family })}
      />
    </>
  );
}

interface DetailsProps {
  name: string;
  product: Product;
  problems: readonly Schemas["Problem"][];
  set: (name: string, part: Partial<Product>) => void;
}

/** Its label, and what makes it another one than others of the family. */
function Details({ name, product, problems, set }: DetailsProps) {
  const words = [
    ["grade", "grade"],
    ["thickness", "thickness"],
    ["additive", "with"],
  ] as const;
  return (
    <details>
      <summary className="cursor-pointer text-faded">its label, grade and mixture</summary>
      <p className="leading-9">
        The label says{" "}
        <LabelFields
          label={name}
          limits={product.label ?? {}}
          problem={(key) => problems.find((p) => p.field === `products.${name}.label.${key}`)?.message}
          onChange={(label) => set(name, { label })}
        />
        .{" "}
        {words.map(([key, text]) => (
          <span key={key}>
            {text}{" "}
            <Line
              label={`${name}: ${text}`}
              value={product[key] ?? ""}
              disabled={false}
              className="w-28"
              onChange={(value) => set(name, { [key]: value })}
            />{" "}
          </span>
        ))}
        thinned by{" "}
        <QuantityField
          label={`${name}: thinned by`}
          dimension="share"
          className="w-16"
          value={product.thinned_pct ?? null}
          placeholder="not"
          problem={problems.find((p) => p.field === `products.${name}.thinned_pct`)?.message}
          onChange={(thinned_pct) => set(name, { thinned_pct })}
        />
      </p>
    </details>
  );
}
