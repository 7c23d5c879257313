/** Levels as they are typed, chosen or pasted: new ones, or another value of an old one. */
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { readLevels, useShop } from "../../api/queries";
import { ChoiceField } from "../../parts/ChoiceField";
import { Button } from "../../parts/controls";
import { isRead } from "../../parts/reading";
import { levelOf, type Level } from "./draft";

export type Products = Record<string, Schemas["ProductIn"]>;

interface Props {
  field: Schemas["FieldView"] | undefined;
  /** Key of the factor: that of the field, or one of the user's own. */
  factorKey: string;
  method: string;
  /** What a bare number is in. */
  unit: string;
  label: string;
  /** What stands in the field at first: the level that is being changed. */
  old?: Level;
  oldText?: string;
  onLevels: (levels: Level[], products?: Products) => void;
}

export function LevelField(props: Props) {
  const { field, label, onLevels } = props;
  const { data: shop } = useShop();
  const [times, setTimes] = useState(0);
  if (!field || field.dimension) return <TypedLevels {...props} />;
  const bottles = field.key === "glue" ? (shop?.bottles ?? []) : [];
  return (
    <ChoiceField
      key={times}
      label={label}
      value=""
      placeholder="add one …"
      choices={[
        ...bottles.map((b) => [b.bottle.label, `${b.bottle.label} (bottle: ${b.family_name})`] as const),
        ...(field.choices as [string, string][]),
      ]}
      freeText={field.free_text}
      onChange={(value) => {
        onLevels([levelOf(value === "none" ? null : value)]);
        setTimes(times + 1);
      }}
    />
  );
}

/** What may be typed, by the dimension of the field. */
function example(dimension: string | null, unit: string): string {
  if (dimension === "time") return "add: 5, 15, 30 min, 1 h";
  return dimension ? `add one or several, ${unit}` : "add a value";
}

/** Reads a list on the server; what it cannot read is named, and the rest comes all the same. */
function useReader({ factorKey, method, unit, old, onLevels }: Props) {
  const [refused, setRefused] = useState("");
  const read = async (text: string): Promise<boolean> => {
    try {
      const found = await readLevels({ field: factorKey, text, unit: old?.unit || unit, method });
      setRefused(found.problems.map((p) => `${p.field}, ${p.message}. ${p.remedy}`).join(" "));
      const products = Object.entries(found.products).map(([k, p]) => [k, { ...p, label: p.label ?? {} }]);
      if (found.levels.length) onLevels(found.levels, Object.fromEntries(products) as Products);
      return found.problems.length === 0;
    } catch (error) {
      setRefused(error instanceof Problem ? error.message : String(error));
      return false;
    }
  };
  return { refused, read };
}

/** Numbers with their unit, or words: one, or several with commas between. */
function TypedLevels(props: Props) {
  const { field, label, old, oldText } = props;
  const [text, setText] = useState(oldText ?? "");
  const { refused, read } = useReader(props);
  const add = async (wanted = text): Promise<boolean> => {
    if (!wanted.trim()) return true;
    const fine = await read(wanted);
    if (fine) setText("");
    return fine;
  };
  return (
    <span>
      <input
        aria-label={label}
        className="written w-52"
        placeholder={field ? example(field.dimension, props.unit) : "add: 0.3 mm, coarse, none"}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onPaste={(e) => {
          const pasted = e.clipboardData.getData("text");
          if (!/[\n\t]/.test(pasted.trim())) return;
          e.preventDefault();
          isRead(add(pasted));
        }}
        onBlur={() => text !== oldText && isRead(add())}
        onKeyDown={(e) => e.key === "Enter" && isRead(add())}
      />{" "}
      {(!field || old) && (
        <Button onMouseDown={(e) => e.preventDefault()} onClick={() => isRead(add())}>
          {old ? "Change" : "Add"}
        </Button>
      )}
      <Refused text={refused} />
    </span>
  );
}

function Refused({ text }: { text: string }) {
  if (!text) return null;
  return (
    <span role="alert" className="block text-sm text-alarm">
      {text}
    </span>
  );
}

/** A whole list at once, one level a line: pasted from a sheet or typed. */
export function PastedLevels(props: Props & { onClose: () => void }) {
  const [text, setText] = useState("");
  const { refused, read } = useReader(props);
  const add = async () => {
    if (await read(text)) props.onClose();
  };
  return (
    <div className="my-1">
      <textarea
        aria-label={`List of ${props.label}`}
        className="written block h-40 w-full max-w-md leading-6"
        placeholder="one a line"
        autoFocus
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
      <Button onClick={() => void add()}>Add them</Button>{" "}
      <Button look="quiet" onClick={props.onClose}>
        Close
      </Button>
      <Refused text={refused} />
    </div>
  );
}
