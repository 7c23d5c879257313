/** Properties of the plan's own, asked where they belong: a sheet for each kind of thing that has them. */
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useOwn, useWrite, writes } from "../api/queries";
import { Code, ProblemNote } from "./controls";
import { Sheet, type Column, type Edit } from "./Sheet";

type Row = Schemas["OwnRow"];
const TITLES: Readonly<Record<string, string>> = {
  board: "Boards",
  bottle: "Bottles",
  joint: "Pieces",
  face: "Faces",
  reading: "Readings",
};

/** The values of those properties that are asked at these times. */
export function OwnValues({ batch, when }: { batch: number; when: readonly string[] }) {
  const { data } = useOwn(batch);
  const sheets = (data?.sheets ?? [])
    .map((s) => ({ ...s, properties: s.properties.filter((p) => when.includes(p.when ?? "before")) }))
    .filter((s) => s.properties.length && s.rows.length);
  if (!sheets.length) return null;
  return (
    <section aria-label="Judged besides" className="space-y-3">
      {sheets.map((s) => (
        <OneSheet key={s.of} batch={batch} sheet={s} />
      ))}
    </section>
  );
}

function OneSheet({ batch, sheet }: { batch: number; sheet: Schemas["OwnSheet"] }) {
  const [typed, setTyped] = useState<Record<string, { text: string; why: string | undefined }>>({});
  const save = useWrite((body: Schemas["OwnValuesIn"]) => writes.own(batch, body), batch);
  const name = (id: string, key: string) => `${id} ${key}`;
  const onEdits = (edits: Edit[]) => {
    if (!edits.length) return;
    const keep = (why: (e: Edit) => string | undefined) =>
      setTyped((old) => ({
        ...old,
        ...Object.fromEntries(edits.map((e) => [name(e.id, e.key), { text: e.text, why: why(e) }])),
      }));
    const done = new Set(edits.map((e) => name(e.id, e.key)));
    keep(() => undefined);
    save.mutate(
      { cells: edits.map((e) => ({ prop: e.key, subject: e.id, text: e.text })) },
      {
        onSuccess: () =>
          setTyped((old) => Object.fromEntries(Object.entries(old).filter(([k]) => !done.has(k)))),
        onError: (problem) =>
          keep((e) => {
            const own = problem.errors.find((p) => p.field === name(e.id, e.key));
            return own ? `${own.message}. ${own.remedy}` : "Not saved: another cell was refused.";
          }),
      },
    );
  };
  const isThing = sheet.of === "board" || sheet.of === "bottle";
  const columns: Column<Row>[] = [
    {
      key: "subject",
      head: (TITLES[sheet.of] ?? sheet.of).replace(/s$/, ""),
      width: "8rem",
      show: (r) => (isThing ? r.subject : <Code>{r.subject}</Code>),
    },
    {
      key: "treatment",
      head: isThing ? "" : "Treatment",
      width: "6rem",
      show: (r) => <span className="font-mono">{r.treatment}</span>,
    },
    ...sheet.properties.map((p) => ({
      key: p.id ?? "",
      head: `${p.name}${p.unit ? `, ${p.unit}` : ""}`,
      width: "minmax(8rem, 1fr)",
      label: (r: Row) => `${p.name} of ${r.subject}`,
      value: (r: Row) => ({
        text:
          typed[name(r.subject, p.id ?? "")]?.text ?? (r.values[p.id ?? ""] ?? "").replace(` ${p.unit}`, ""),
        hint: (p.grades ?? []).join(", "),
      }),
    })),
  ];
  const title = `${TITLES[sheet.of] ?? sheet.of} judged besides`;
  return (
    <div>
      <h2 className="text-lg font-bold">{title}</h2>
      <Sheet
        label={title}
        rows={sheet.rows}
        columns={columns}
        id={(r) => r.subject}
        onEdits={onEdits}
        wrong={(id, key) => typed[name(id, key)]?.why}
        maxHeight="min(40vh, 28rem)"
      />
      {Object.values(typed).some((t) => t.why) && <ProblemNote problem={save.error} />}
    </div>
  );
}
