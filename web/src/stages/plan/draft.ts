/** The plan being written: changes show at once, are saved one after the other, and never overwrite another window's. */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { writes } from "../../api/queries";
import type { Units } from "../../parts/units";

export type Document = Schemas["PlanDocument"];
type View = Schemas["PlanView"];
type Level = Schemas["LevelIn"];

/** The unit in which a bare number is read in this field. */
export function usualUnit(field: Schemas["FieldView"]): string {
  return field.dimension === "time" ? "h" : field.dimension === "stress" ? "MPa" : "";
}

export interface Draft {
  document: Document;
  name: string;
  saving: boolean;
  problem: Problem | null;
  change: (part: Partial<Document>) => void;
  rename: (name: string) => void;
  /** Waits until everything is saved; the version that stands then. */
  settled: () => Promise<number>;
}

export function useDraft(view: View): Draft {
  const client = useQueryClient();
  const [local, setLocal] = useState<{ document: Document; name: string } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [saving, setSaving] = useState(false);
  const version = useRef(view.version);
  const wanted = useRef<{ document: Document; name: string } | null>(null);
  const running = useRef<Promise<void> | null>(null);
  const timer = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  const document = local?.document ?? (view.document as unknown as Document);
  const name = local?.name ?? view.name;

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
        if (!wanted.current) setLocal(null);
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
    saving: saving || local !== null,
    problem,
    change: (part) => put({ document: { ...document, ...part }, name }, 250),
    rename: (next) => put({ document, name: next }, 400),
    settled: async () => {
      await flush();
      return version.current;
    },
  };
}

/** A remedy's change laid over the document: parts of a part (one size, one constant) leave the others as they are. */
export function applied(document: Document, change: Readonly<Record<string, unknown>>): Document {
  const next: Record<string, unknown> = { ...document };
  for (const [key, value] of Object.entries(change)) {
    const old = next[key];
    const both = (v: unknown): v is Record<string, unknown> => typeof v === "object" && v !== null && !Array.isArray(v);
    next[key] = both(old) && both(value) ? { ...old, ...value } : value;
  }
  return next as unknown as Document;
}

/** Every cell of the grid, the last factor running fastest. */
export function gridCells(document: Document): number[][] {
  return document.factors.reduce<number[][]>((cells, f) => cells.flatMap((c) => f.levels.map((_, i) => [...c, i])), [[]]);
}

export const same = (a: readonly number[], b: readonly number[]): boolean => a.length === b.length && a.every((v, i) => v === b[i]);

/** A level in words: the choice's name, or the number in the unit it was typed in. */
export function levelName(level: Level, field: Schemas["FieldView"] | undefined, units: Units): string {
  if (level.value === null) return "none";
  if (typeof level.value === "string") return field?.choices.find(([k]) => k === level.value)?.[1] ?? level.value;
  return field?.dimension ? units.text(level.value, field.dimension, undefined, level.unit || undefined) : `${level.value} ${level.unit ?? ""}`.trim();
}
