/**
 * The plan being written: changes show at once, are saved one after the other, and never overwrite
 * another window's.
 */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { writes } from "../../api/queries";
import type { Units } from "../../parts/units";

export type Document = Schemas["PlanDocument"];
type View = Schemas["PlanView"];
export type Level = Schemas["LevelIn"];
/** Factor key -> level id; a factor that is not named stands for each of its levels. */
export type Cell = Record<string, string>;

/** The unit that a bare number of a field is typed in: the shop's own, but for times. */
export function typedUnit(dimension: string | null, units: Units): string {
  return !dimension ? "" : dimension === "time" ? "h" : units.symbol(dimension);
}

export interface Draft {
  document: Document;
  name: string;
  saving: boolean;
  problem: Problem | null;
  /** Lay a part over the document; a function is given the newest one, also between two renderings. */
  change: (part: Partial<Document> | ((now: Document) => Partial<Document>)) => void;
  rename: (name: string) => void;
  /** Waits until everything is saved; the version that stands then. */
  settled: () => Promise<number>;
}

interface Local {
  document: Document;
  name: string;
  /** The version as which it was saved; it stands here until the plan that is read has come so far. */
  saved?: number;
}

export function useDraft(view: View): Draft {
  const client = useQueryClient();
  const [local, setLocal] = useState<Local | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [saving, setSaving] = useState(false);
  const version = useRef(view.version);
  const wanted = useRef<{ document: Document; name: string } | null>(null);
  const newest = useRef<{ document: Document; name: string } | null>(null);
  const running = useRef<Promise<void> | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const mine = local && (local.saved === undefined || view.version < local.saved) ? local : null;
  // What was read has come so far: from now on it may go anywhere, back by undo too.
  if (local !== null && mine === null) setLocal(null);
  const document = mine?.document ?? (view.document as unknown as Document);
  const name = mine?.name ?? view.name;

  useEffect(() => {
    if (!wanted.current && !running.current) version.current = view.version;
  }, [view.version]);

  const save = useCallback(
    async (next: { document: Document; name: string }) => {
      setSaving(true);
      try {
        const saved = await writes.savePlan(view.batch_id, { version: version.current, ...next });
        version.current = saved.version;
        setProblem(null);
        client.setQueryData(["batch", view.batch_id, "plan"], saved);
        if (!wanted.current) {
          newest.current = null;
          setLocal({ ...next, saved: saved.version });
        }
        void client.invalidateQueries({ queryKey: ["batch", view.batch_id, "undo"] });
        void client.invalidateQueries({ queryKey: ["today"] });
      } catch (error) {
        setProblem(error instanceof Problem ? error : new Problem(0, String(error)));
      } finally {
        setSaving(false);
      }
    },
    [client, view.batch_id],
  );

  /** Save what is wanted, one save after the other, until nothing is. */
  const flush = useCallback((): Promise<void> => {
    clearTimeout(timer.current);
    if (!wanted.current) return running.current ?? Promise.resolve();
    running.current ??= (async () => {
      while (wanted.current) {
        const next = wanted.current;
        wanted.current = null;
        await save(next);
      }
      running.current = null;
    })();
    return running.current;
  }, [save]);

  const put = (next: { document: Document; name: string }, wait: number) => {
    wanted.current = next;
    newest.current = next;
    setLocal(next);
    clearTimeout(timer.current);
    timer.current = setTimeout(() => void flush(), wait);
  };

  useEffect(
    () => () => {
      void flush();
    },
    [flush],
  );

  return {
    document,
    name,
    saving: saving || mine !== null,
    problem,
    change: (part) => {
      const now = newest.current ?? { document, name };
      const more = typeof part === "function" ? part(now.document) : part;
      put({ ...now, document: { ...now.document, ...more } }, 250);
    },
    rename: (next) => put({ document: newest.current?.document ?? document, name: next }, 400),
    settled: async () => {
      await flush();
      return version.current;
    },
  };
}

/**
 * A remedy's change laid over the document: parts of a part (one size, one constant) leave the others as
 * they are.
 */
export function applied(document: Document, change: Readonly<Record<string, unknown>>): Document {
  const next: Record<string, unknown> = { ...document };
  for (const [key, value] of Object.entries(change)) {
    const old = next[key];
    const both = (v: unknown): v is Record<string, unknown> =>
      typeof v === "object" && v !== null && !Array.isArray(v);
    next[key] = both(old) && both(value) ? { ...old, ...value } : value;
  }
  return next as unknown as Document;
}

/** A level; without an id the server gives it one. */
export const levelOf = (value: Level["value"], unit = "", id = ""): Level => ({ value, unit, id, late: 0 });

/** The usual value of a field, or the first that can be chosen. */
export const usualLevel = (field: Schemas["FieldView"], view: View): Level =>
  view.forecast.usual[field.key] ?? levelOf((field.choices[0]?.[0] as string | undefined) ?? null);

/** The number from which on no id of a level is taken, nor spoken of anywhere in the plan. */
export function freshLevelNumber(document: Document): number {
  const { factors, control, dropped, extra_replicates, guesses, side_questions, claims } = document;
  const said = JSON.stringify([
    factors.map((f) => f.levels.map((l) => l.id)),
    [control, dropped, extra_replicates, Object.keys(guesses ?? {})],
    [...(side_questions ?? []), ...(claims ?? [])].map((a) => [a.treatments ?? [], a.against]),
  ]);
  const used = [...said.matchAll(/\bl(\d+)\b/g)].map((m) => Number(m[1]));
  return Math.max(0, ...used) + 1;
}

/** Every cell of the grid, the last factor running fastest. */
export function gridCells(document: Document): Cell[] {
  return document.factors.reduce<Cell[]>(
    (cells, f) => cells.flatMap((c) => f.levels.map((l) => ({ ...c, [f.key]: l.id }))),
    [{}],
  );
}

/** Whether a whole cell is one of those that a pattern names. */
export const covers = (pattern: Cell, cell: Cell): boolean =>
  Object.entries(pattern).every(([key, level]) => cell[key] === level);

export const isSameCell = (a: Cell, b: Cell): boolean => covers(a, b) && covers(b, a);

/** What was said of single cells and still means something when levels or factors have gone. */
export function fitting(document: Document, factors: Document["factors"]): Partial<Document> {
  const stands = (cell: Cell) =>
    Object.entries(cell).every(([key, id]) =>
      factors.some((f) => f.key === key && f.levels.some((l) => l.id === id)),
    );
  return {
    factors,
    control: Object.fromEntries(Object.entries(document.control).filter(([k, id]) => stands({ [k]: id }))),
    dropped: document.dropped.filter(stands),
    extra_replicates: document.extra_replicates.filter(([cell]) => stands(cell as Cell)),
  };
}

export const SIZE = "size:";

/** Whether a field is a size of the joint: held constant it stands with the method. */
export const isSize = (field: Schemas["FieldView"]): boolean => field.key.startsWith(SIZE);

/**
 * The fields that can differ in this plan: of the sizes only those that its method and joint forms have, by
 * the name that they have there.
 */
export function ableFields(catalogue: Schemas["CatalogueView"], view: View): Schemas["FieldView"][] {
  const names = new Map(view.forecast.sizes.map((s) => [SIZE + s.key, s.name]));
  const used = (view.document as unknown as Document).factors.map((f) => f.key);
  return catalogue.fields
    .filter((f) => !isSize(f) || names.has(f.key) || used.includes(f.key))
    .map((f) => ({ ...f, name: names.get(f.key) ?? f.name }));
}

/** A level in words: the choice's name, or the number in the unit it was typed in. */
export function levelName(level: Level, field: Schemas["FieldView"] | undefined, units: Units): string {
  if (level.value === null) return field?.dimension ? "not stated" : "none";
  if (typeof level.value === "string")
    return (
      [...(field?.choices ?? []), ...(field?.words ?? [])].find(([k]) => k === level.value)?.[1] ??
      level.value
    );
  return field?.dimension
    ? units.typed(level.value, field.dimension, level.unit || undefined)
    : `${level.value} ${level.unit ?? ""}`.trim();
}

/** What questions can be about: the factors; in a survey, which has none, the treatments themselves. */
export function askedFactors(document: Document): Document["factors"] {
  if (document.factors.length) return document.factors;
  const levels = (document.extras ?? []).map((e) => levelOf(e.label, "", e.id));
  return [{ key: "treatment", name: "Treatment", levels, order: "typed", whole: false }];
}
