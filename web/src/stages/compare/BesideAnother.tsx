/**
 * Treatments of another study beside this one: drawn apart, with everything in which the testing differs;
 * compared only once somebody agrees to it.
 */
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { useBrought } from "../../api/brought";
import { ProblemNote } from "../../parts/controls";
import { Differences } from "../../parts/Differences";
import type { Look } from "./linked";

/** What is brought in now, as the link has it. */
export function useBroughtIn(batch: number, look: Look) {
  return useQueryOf(batch, look, look.all("bring").length > 0).data;
}

function useQueryOf(batch: number, look: Look, open: boolean) {
  const asked = {
    figure: look.get("figure") || "strength",
    ...(look.get("fallen") ? { fallen_as_zero: look.get("fallen") === "zero" } : {}),
    without: look.all("without"),
    strength: look.get("strength"),
    target: look.get("target"),
    bring: look.all("bring"),
    agreed: look.get("agreed") === "yes",
    through: look.get("through"),
  };
  return useBrought(batch, asked, open);
}

interface Props {
  batch: number;
  view: Schemas["CompareView"];
  look: Look;
}

export function BesideAnother({ batch, view, look }: Props) {
  const [open, setOpen] = useState(look.all("bring").length > 0);
  const { data, error } = useQueryOf(batch, look, open);
  if (view.loadless) return null;
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer text-lg font-bold">Beside another study</summary>
      <p className="my-2 max-w-3xl text-sm text-faded">
        What is brought in is drawn dashed below the others, and takes part in no comparison of this study.
      </p>
      <ProblemNote problem={error instanceof Problem ? error : null} />
      {data && <Studies studies={data.studies} look={look} />}
      {data && data.groups.length > 0 && <Judged view={view} data={data} look={look} />}
    </details>
  );
}

function Studies({ studies, look }: { studies: readonly Schemas["Study"][]; look: Look }) {
  const [chosen, setChosen] = useState(look.all("bring")[0]?.split(":")[0] ?? "");
  const study = studies.find((s) => String(s.batch_id) === chosen);
  const brought = look.all("bring");
  if (!studies.length) return <p className="text-faded">No other study has been broken yet.</p>;
  return (
    <div>
      <label>
        From{" "}
        <select
          className="written max-w-full"
          aria-label="Study to bring in from"
          value={chosen}
          onChange={(e) => setChosen(e.target.value)}
        >
          <option value="">which study?</option>
          {studies.map((s) => (
            <option key={s.batch_id} value={s.batch_id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      {study?.why && <p className="text-notice">It cannot be brought in: {study.why}.</p>}
      {study && !study.why && (
        <ul className="mt-1 flex flex-wrap gap-x-6">
          {study.treatments.map(([letter, label, n]) => {
            const key = `${study.batch_id}:${letter}`;
            return (
              <li key={key}>
                <label className="inline-flex min-h-6 items-center gap-1.5">
                  <input
                    type="checkbox"
                    className="size-4"
                    checked={brought.includes(key)}
                    onChange={(e) =>
                      look.set(
                        "bring",
                        e.target.checked ? [...brought, key] : brought.filter((k) => k !== key),
                      )
                    }
                  />
                  {label} <span className="text-sm text-faded">n {n}</span>
                </label>
              </li>
            );
          })}
        </ul>
      )}
    </div>
  );
}

function Judged({ view, data, look }: { view: Props["view"]; data: Schemas["BroughtView"]; look: Look }) {
  return (
    <div className="mt-3 space-y-3">
      {data.differences.map((d) => (
        <Differences key={d.batch_id} name={view.name} other={d.study} differences={d.differences} />
      ))}
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="size-4"
          checked={look.get("agreed") === "yes"}
          onChange={(e) => look.set("agreed", e.target.checked ? "yes" : "")}
        />
        I know of these differences: compare them all the same
      </label>
      {data.agreed && (
        <>
          <Sentences title="Against this study, as if the testing were alike" told={data.comparisons} />
          {data.ties.length > 0 && (
            <label>
              Tied by{" "}
              <select
                className="written max-w-full"
                aria-label="What ties the studies"
                value={data.through}
                onChange={(e) => look.set("through", e.target.value)}
              >
                <option value="">nothing</option>
                {data.ties.map((t) => (
                  <option key={t.key} value={t.key}>
                    {t.text}
                  </option>
                ))}
              </select>
            </label>
          )}
          {data.through && <Sentences title="Each as a share of what both studies broke" told={data.tied} />}
          {data.ties.length === 0 && (
            <p className="text-sm text-faded">
              Nothing alike was broken in both studies that could tie them: what differs between them may be
              the testing.
            </p>
          )}
        </>
      )}
    </div>
  );
}

function Sentences({ title, told }: { title: string; told: readonly Schemas["ComparedView"][] }) {
  return (
    <section aria-label={title}>
      <h3 className="head">{title}</h3>
      {told.length ? (
        <ul>
          {told.map((c) => (
            <li key={c.text}>{c.text}</li>
          ))}
        </ul>
      ) : (
        <p className="text-faded">There are too few exact figures for that.</p>
      )}
    </section>
  );
}
