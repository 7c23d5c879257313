/** Cut: what to cut, what to write on it, and the real sizes, typed like in a sheet. */
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { Problem, type Schemas } from "../../api/client";
import { useCut, useWrite, writes } from "../../api/queries";
import { Button, Code, Notice, ProblemNote, Waiting } from "../../parts/controls";
import { OwnValues } from "../../parts/OwnValues";
import { Protocol } from "../../parts/Protocol";
import { StageCautions } from "../../parts/StageCautions";
import { Flags } from "../../parts/Explained";
import { Sheet, type Column, type Edit } from "../../parts/Sheet";
import { UndoBar } from "../../parts/UndoBar";
import { counted, useUnits } from "../../parts/units";
import { BoardPlan } from "./BoardPlan";
import { Making } from "./Making";
import { Parents } from "./Parents";
import { PieceSheet } from "./PieceSheet";

type Row = Schemas["CutRow"];
const MORE = [
  ["gap", "mm"],
  ["moisture", "%"],
  ["mass", "g"],
] as const;

export default function CutStage({ batch }: { batch: number }) {
  const { data, error } = useCut(batch);
  const units = useUnits();
  const [typed, setTyped] = useState<Record<string, { text: string; why: string | undefined }>>({});
  const [extra, setExtra] = useState<readonly string[]>([]);
  const aside = useWrite(
    (r: Row) =>
      writes.observe(batch, {
        code: r.code,
        kind: "void",
        low: "",
        high: "",
        held: "",
        reason: `out of tolerance: ${r.question ?? ""}`,
        note: "",
        source: "typed",
        weights: "",
        again: false,
        beside: false,
        shares: [],
        pull_id: null,
        failure_mode: null,
        wood_failure_pct: null,
      }),
    batch,
  );
  const [params] = useSearchParams();
  const [open, setOpen] = useState<string | null>(params.get("piece"));
  const spare = useWrite((code: string) => writes.spare(batch, code), batch);
  const save = useWrite((cells: Schemas["SizeIn"][]) => writes.sizes(batch, cells), batch);
  if (error && !data)
    return <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />;
  if (!data) return <Waiting what="the cut sheet" />;

  /**
   * What was typed stays in its cell until it is saved; what was refused, or could not be sent, stays
   * with the reason.
   */
  const onEdits = (edits: Edit[]) => {
    if (!edits.length) return;
    const name = (e: Edit) => `${e.id} ${e.key}`;
    const keep = (why: (e: Edit) => string | undefined) =>
      setTyped((old) => ({
        ...old,
        ...Object.fromEntries(edits.map((e) => [name(e), { text: e.text, why: why(e) }])),
      }));
    keep(() => undefined);
    save.mutate(
      edits.map((e) => ({ code: e.id, quantity: e.key, text: e.text })),
      {
        onSuccess: () =>
          setTyped((old) =>
            Object.fromEntries(Object.entries(old).filter(([k]) => !edits.some((e) => name(e) === k))),
          ),
        onError: (problem) =>
          keep((e) => {
            const own = problem.errors.find((p) => p.field === name(e));
            if (own) return `${own.message}. ${own.remedy}`;
            return problem.errors.length ? "Not saved: another cell was refused." : problem.message;
          }),
      },
    );
  };

  const size = (key: string): Column<Row> => ({
    key,
    head: `${data.size_names[key] ?? key}, ${units.symbol("length")}`,
    width: "7.5rem",
    label: (r) => `${data.size_names[key] ?? key} of ${r.code}`,
    value: (r) => {
      const own = r.sizes[key];
      const waiting = typed[`${r.code} ${key}`];
      return {
        text: waiting?.text ?? (own ? units.typedNumber(own.value, "length") : ""),
        hint: units.typedNumber(r.nominal[key] ?? 0, "length"),
      };
    },
  });

  const more = (key: string, unit: string): Column<Row> => ({
    key,
    head: `${data.size_names[key] ?? key}, ${key === "gap" ? units.symbol("length") : unit}`,
    width: "6rem",
    label: (r) => `${data.size_names[key] ?? key} of ${r.code}`,
    value: (r) => {
      const own = r.sizes[key];
      const text = own
        ? key === "gap"
          ? units.typedNumber(own.value, "length")
          : String(Math.round(100 * own.value) / 100)
        : "";
      return { text: typed[`${r.code} ${key}`]?.text ?? text, hint: "" };
    },
  });

  const columns: Column<Row>[] = [
    {
      key: "code",
      head: "Piece",
      width: "4.5rem",
      show: (r) => (
        <>
          <span
            aria-hidden
            className="mr-1.5 hidden size-3.5 border border-ink align-middle print:inline-block"
          />
          <button
            type="button"
            aria-label={`${r.code} in full`}
            className="rounded-sm px-0.5 underline-offset-4 hover:underline"
            onClick={() => setOpen(r.code)}
          >
            <Code>{r.code}</Code>
          </button>
        </>
      ),
    },
    {
      key: "treatment",
      head: "Treatment",
      width: "minmax(9rem, 1.3fr)",
      show: (r) => (
        <>
          <span className="mr-2 font-mono">{r.treatment}</span>
          {r.part === "dummy" ? "Dummy" : r.label}
          {r.part === "spare" && ", spare"}
          {r.part === "trial" && ", trial"}
          {r.instead_of && `, for ${r.instead_of}`}
        </>
      ),
    },
    {
      key: "halves",
      head: data.parents.length ? "Write on it" : "Write on the halves",
      width: data.parents.length ? "11.5rem" : "9.5rem",
      show: (r) => (
        <>
          <span className="font-mono text-sm">{r.halves.join("  ")}</span>
          {r.parent && <span className="ml-2 text-sm text-faded">{r.parent.split(" (")[0]}</span>}
        </>
      ),
    },
    ...data.to_measure.map(size),
    ...MORE.filter(([key]) => extra.includes(key) || data.rows.some((r) => r.sizes[key])).map(([key, unit]) =>
      more(key, unit),
    ),
    {
      key: "area",
      head: `Glued area, ${units.symbol("area")}`,
      width: "7rem",
      show: (r) => (
        <span className={`${r.measured ? "" : "text-faded"}`}>
          {units.number(r.area_mm2, "area")}
          {r.measured ? "" : " nominal"}
        </span>
      ),
    },
    {
      key: "note",
      head: "To mind",
      width: "minmax(9rem, 1.4fr)",
      show: (r) =>
        r.aside ? (
          <span className="flex items-center gap-2 text-faded">
            put aside
            {data.rows.some((x) => x.part === "spare" && !x.aside && x.treatment === r.treatment) &&
              !data.rows.some((x) => x.instead_of === r.code) && (
                <Button
                  look="quiet"
                  className="shrink-0 text-sm"
                  disabled={spare.isPending}
                  onClick={() => spare.mutate(r.code)}
                >
                  Take a spare
                </Button>
              )}
          </span>
        ) : (
          r.question && (
            <span className="flex items-center gap-2">
              <span className="min-w-0 truncate">
                <Flags items={[r.question]} of={r.code} />
              </span>
              <Button
                look="quiet"
                className="shrink-0 text-sm"
                disabled={aside.isPending}
                onClick={() => aside.mutate(r)}
              >
                Put aside
              </Button>
            </span>
          )
        ),
    },
  ];
  const questions = data.rows.filter((r) => r.question);

  return (
    <div className="space-y-4">
      <div className="flex flex-wrap items-baseline justify-between gap-x-8 gap-y-2">
        <p>
          Cut{" "}
          {Object.entries(data.blanks)
            .map(([species, n]) => `${counted(n, "blank")} of ${species}`)
            .join(" and ")}
          .{" "}
          {data.parents.some((p) => p.sawn)
            ? "Write its code on both strips of each before anything else happens to them; the codes of the" +
              " pieces come on after the saw."
            : "Write the code on both halves before anything else happens to them."}
        </p>
        <div className="flex items-center gap-4">
          <Link className="text-spruce underline underline-offset-4 no-print" to={`/batch/${batch}/labels`}>
            Labels
          </Link>
          <Button onClick={() => window.print()} className="no-print">
            Print
          </Button>
          <span className="text-faded">
            {data.to_measure.length
              ? `${data.measured} of ${data.rows.length} measured`
              : "Nothing needs to be measured"}
          </span>
        </div>
      </div>
      <StageCautions batch={batch} stage="cut" />
      {Object.values(typed).some((t) => t.why) && <ProblemNote problem={save.error} />}
      {questions.length > 0 && (
        <Notice>
          {questions.length === 1
            ? `${questions[0]!.code}: ${questions[0]!.question}`
            : `${questions.length} sizes look odd; they are marked in the sheet.`}
        </Notice>
      )}
      <BoardPlan batch={batch} view={data} />
      <Parents rows={data.parents} />
      <Making rows={data.making} />
      <Protocol batch={batch} />
      {open && <PieceSheet key={open} batch={batch} view={data} code={open} onClose={() => setOpen(null)} />}
      <Sheet
        label="Cut sheet"
        rows={data.rows}
        columns={columns}
        id={(r) => r.code}
        onEdits={onEdits}
        wrong={(code, key) => typed[`${code} ${key}`]?.why}
      />
      <p className="no-print flex flex-wrap gap-x-4 text-sm">
        <span className="text-faded">Measure as well:</span>
        {MORE.map(([key]) => (
          <label key={key} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={extra.includes(key)}
              onChange={(e) => setExtra(e.target.checked ? [...extra, key] : extra.filter((k) => k !== key))}
            />
            {(data.size_names[key] ?? key).toLowerCase()}
          </label>
        ))}
      </p>
      <ProblemNote problem={aside.error ?? spare.error} />
      <OwnValues batch={batch} when={["before"]} />
      <p className="text-sm text-faded">
        Type 19, 19.4 mm or 3/4 in. Enter and arrows move; a column pasted from a spreadsheet fills downward.
        Empty cells count as nominal, and results say so.
      </p>
      <UndoBar batch={batch} stage="cut" />
    </div>
  );
}
