/** A curve from a logger's file: its columns and units, what it shows, and then taken as a pull. */
import { lazy, Suspense, useId, useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { takeCurve, useCurveLook } from "../../api/curves";
import { useWrite } from "../../api/queries";
import { Button, Notice, ProblemNote, Waiting } from "../../parts/controls";
import { useUnits } from "../../parts/units";

const Curve = lazy(() => import("../../parts/Curve"));
type Columns = Schemas["Columns"];

const UNITS = {
  time_unit: ["s", "ms", "min"],
  load_unit: ["N", "kN", "kgf", "lbf", "MPa", "bar", "psi", "N·m"],
  travel_unit: ["mm", "in", "thou"],
} as const;

export function CurveFile({ batch, code }: { batch: number; code: string }) {
  const id = useId();
  const units = useUnits();
  const [file, setFile] = useState("");
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState<Columns | null>(null);
  const look = useCurveLook(file, text, chosen);
  const save = useWrite(takeCurve, batch);
  const data = look.data;
  const columns = chosen ?? data?.columns ?? null;
  const put = (change: Partial<Columns>) => columns && setChosen({ ...columns, ...change });
  const count = Math.max(data?.heads.length ?? 0, data?.rows[0]?.length ?? 0);
  const named = (n: number) => data?.heads[n - 1] || `column ${n}`;
  const force = (n: number) => units.text(n, "force");
  const select = (key: "time" | "load" | "travel", label: string, unit: keyof typeof UNITS) => (
    <span className="mr-3 inline-block">
      {label}{" "}
      <select
        aria-label={`Column of the ${label}`}
        className="written"
        value={columns?.[key] ?? 0}
        onChange={(e) => put({ [key]: Number(e.target.value) })}
      >
        {key === "travel" && <option value={0}>none</option>}
        {Array.from({ length: count }, (_, i) => (
          <option key={i} value={i + 1}>
            {named(i + 1)}
          </option>
        ))}
      </select>{" "}
      in{" "}
      <select
        aria-label={`Unit of the ${label}`}
        className="written"
        value={columns?.[unit] ?? ""}
        onChange={(e) => put({ [unit]: e.target.value })}
      >
        {UNITS[unit].map((u) => (
          <option key={u}>{u}</option>
        ))}
      </select>
    </span>
  );
  return (
    <div className="space-y-2 text-sm no-print">
      <label htmlFor={id} className="cursor-pointer text-spruce underline underline-offset-4">
        a curve from a file
        <input
          id={id}
          type="file"
          accept=".csv,.txt,.tsv,text/*"
          className="sr-only"
          aria-label={`Curve of ${code} from a file`}
          onChange={(e) => {
            const one = e.target.files?.[0];
            e.target.value = "";
            if (!one) return;
            setChosen(null);
            setFile(`${one.name} ${one.lastModified}`);
            void one.text().then(setText);
          }}
        />
      </label>
      {text && look.isLoading && <Waiting what="the file" />}
      {look.error instanceof Problem && <ProblemNote problem={look.error} />}
      {text && data && columns && (
        <section aria-label="What the file shows" className="sheet space-y-2 px-4 py-3">
          <p className="leading-9">
            {select("time", "time", "time_unit")}
            {select("load", "load", "load_unit")}
            {select("travel", "travel", "travel_unit")}
          </p>
          {data.trouble ? (
            <Notice>{data.trouble}</Notice>
          ) : (
            <>
              <p>
                {data.count} rows, {data.seconds.toFixed(1)} s at {Number(data.rate_hz.toPrecision(3))} a
                second. Peak <strong>{force(data.peak_n)}</strong> at {data.peak_s.toFixed(1)} s
                {data.first_drop_n !== null && `, first drop at ${force(data.first_drop_n)}`}
                {data.broke ? "" : "; no break is seen"}.
              </p>
              {data.off && (
                <Notice>
                  It begins with {force(data.start_n)}: a file is taken as zeroed, so this much is in the
                  peak. Zero the logger, or mend the file.
                </Notice>
              )}
              {data.bound && (
                <Notice>
                  {data.high_n !== null && data.low_n !== null
                    ? `The load lies between ${force(data.low_n)} and ${force(data.high_n)}: ${data.bound}.`
                    : `The load is a lower bound: ${data.bound}.`}
                </Notice>
              )}
              <Suspense fallback={<div style={{ height: 200 }} />}>
                <Curve
                  key={JSON.stringify(columns)}
                  points={data.points as [number, number][]}
                  tick={data.count}
                  height={200}
                  marks={[{ load: data.peak_n, text: `peak ${force(data.peak_n)}` }]}
                />
              </Suspense>
            </>
          )}
          <ProblemNote problem={save.error} />
          <p className="flex gap-4">
            <Button
              look="main"
              disabled={save.isPending || Boolean(data.trouble)}
              onClick={() => save.mutate({ code, text, columns }, { onSuccess: () => setText("") })}
            >
              Take it as the pull of {code}
            </Button>
            <Button look="quiet" onClick={() => setText("")}>
              not this file
            </Button>
          </p>
        </section>
      )}
    </div>
  );
}
