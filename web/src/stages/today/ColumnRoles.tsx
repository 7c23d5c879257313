/** What each column of a table holds, where each row is a piece. */
import type { Schemas } from "../../api/client";

type Column = Schemas["ColumnIn"];

const ROLES: readonly (readonly [Column["role"], string])[] = [
  ["factor", "what treatments differ in"],
  ["load", "the load or strength"],
  ["result", "how it ended: broke, did not break, fell apart"],
  ["failure_mode", "how it failed"],
  ["wood_failure_pct", "wood failure, %"],
  ["size", "a size of the piece"],
  ["piece", "the name of the piece"],
  ["date", "the day of the break"],
  ["note", "a note"],
  ["skip", "nothing: leave it out"],
  ["ask", "say what it holds …"],
];

interface Props {
  heads: readonly string[];
  columns: readonly (Column | Schemas["Column"])[];
  sizes: readonly Schemas["MethodSize"][];
  fields: readonly Schemas["FieldView"][];
  onChange: (columns: Column[]) => void;
}

export function ColumnRoles({ heads, columns, sizes, fields, onChange }: Props) {
  if (!heads.length)
    return <p className="text-faded">Paste the table, and choose the method: its columns follow.</p>;
  const change = (place: number, more: Partial<Column>) =>
    onChange(columns.map((c, i) => ({ ...(c as Column), ...(i === place ? more : {}) })));
  return (
    <ul className="my-2 border-b border-rule">
      {columns.map((c, i) => (
        <li key={i} className="flex flex-wrap items-baseline gap-x-3 border-t border-rule py-1">
          <span className="w-36 truncate font-semibold">{heads[i] || `column ${i + 1}`}</span>
          <select
            aria-label={`Column ${i + 1} holds`}
            className={c.role === "ask" ? "written border-alarm text-alarm" : "written"}
            value={c.role}
            onChange={(e) => change(i, { role: e.target.value as Column["role"], key: "" })}
          >
            {ROLES.map(([key, words]) => (
              <option key={key} value={key}>
                {words}
              </option>
            ))}
          </select>
          {c.role === "factor" && (
            <select
              aria-label={`Column ${i + 1} is`}
              className="written max-w-48"
              value={c.key}
              onChange={(e) => change(i, { key: e.target.value })}
            >
              <option value="">a factor of its own</option>
              {fields.map((f) => (
                <option key={f.key} value={f.key}>
                  {f.name}
                </option>
              ))}
            </select>
          )}
          {c.role === "size" && (
            <select
              aria-label={`Column ${i + 1} is the size`}
              className="written"
              value={c.key}
              onChange={(e) => change(i, { key: e.target.value })}
            >
              <option value="">which size?</option>
              {sizes.map((s) => (
                <option key={s.key} value={s.key}>
                  {s.name}
                </option>
              ))}
            </select>
          )}
          {["factor", "load", "size"].includes(c.role) && (
            <input
              aria-label={`Unit of column ${i + 1}`}
              className="written w-20"
              placeholder="unit"
              value={c.unit}
              onChange={(e) => change(i, { unit: e.target.value })}
            />
          )}
        </li>
      ))}
    </ul>
  );
}
