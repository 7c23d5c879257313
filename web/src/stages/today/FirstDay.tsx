/** An empty shop: three steps, each of which can be left out, and a look at a workshop that is at work. */
import { useMutation } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { api, take, type Problem, type Schemas } from "../../api/client";
import { useCatalogue, useShop, useWrite, writes } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { useChoice } from "../../parts/useDevice";

const STEPS = ["ask", "units", "press"] as const;
const OFFERED = 6;

export function FirstDay() {
  const [skipped, setSkipped] = useChoice("first-day");
  const left = STEPS.filter((s) => !skipped.split(" ").includes(s));
  const skip = (step: string) => setSkipped(`${skipped} ${step}`.trim());
  const step = (name: (typeof STEPS)[number], title: string, body: ReactNode) =>
    left.includes(name) && (
      <li key={name} className="border-t border-rule py-3">
        <div className="flex items-baseline gap-x-3">
          <h3 className="text-lg font-semibold">{title}</h3>
          <Button
            look="quiet"
            className="ml-auto py-0 text-sm"
            aria-label={`Skip: ${title}`}
            onClick={() => skip(name)}
          >
            skip
          </Button>
        </div>
        {body}
      </li>
    );
  return (
    <section aria-labelledby="first" className="sheet mb-4 px-4 py-3">
      <h2 id="first" className="text-xl font-bold">
        {left.length ? "The first day" : "Nothing is planned yet"}
      </h2>
      {left.length === 0 && (
        <p className="text-faded">
          Begin a batch: name what you want to find out, and the rest follows in five steps.{" "}
          <Button look="quiet" className="py-0" onClick={() => setSkipped("")}>
            show the steps again
          </Button>
        </p>
      )}
      <ol>
        {step("ask", "What do you want to find out?", <Questions />)}
        {step("units", "Which units, and what breaks your pieces?", <Units />)}
        {step(
          "press",
          "What presses them?",
          <p>
            Clamps, weights, tape or nothing: what you have stands <ToShop at="clamps">in the shop</ToShop>,
            with how many joints it holds. Then the schedule knows how many can be glued at once.
          </p>,
        )}
      </ol>
      <Demo />
    </section>
  );
}

function Questions() {
  const { data } = useCatalogue();
  const go = useNavigate();
  const begin = useWrite((q: Schemas["QuestionView"]) => writes.createFrom(q.name.replace(/\?$/, ""), q.key));
  const questions = data?.questions.filter((q) => q.key !== "own") ?? [];
  return (
    <>
      <ul className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
        {questions.slice(0, OFFERED).map((q) => (
          <li key={q.key}>
            <Button
              look="quiet"
              className="py-0.5"
              disabled={begin.isPending}
              onClick={() =>
                // The steps are gone with the first batch: what follows must not wait for them.
                void begin.mutateAsync(q).then(
                  (made) => go(`/batch/${made.id}/plan`),
                  () => undefined,
                )
              }
            >
              {q.name}
            </Button>
          </li>
        ))}
      </ul>
      <p className="text-sm text-faded">
        Each fills a plan that you can change in everything. More of them, and a question of your own: name a
        batch and begin.
      </p>
      <ProblemNote problem={begin.error} />
    </>
  );
}

function Units() {
  const { data: shop } = useShop();
  const save = useWrite(writes.settings);
  const [picked, setPicked] = useState("");
  if (!shop) return null;
  const worn = (units: Record<string, string>) =>
    Object.entries(units).every(([k, v]) => shop.units[k] === v);
  return (
    <>
      <p className="flex flex-wrap gap-x-4">
        {Object.entries(shop.systems).map(([system, units]) => (
          <label key={system} className="inline-flex min-h-6 items-center gap-1.5">
            <input
              type="radio"
              name="system"
              className="size-4"
              checked={picked ? picked === system : worn(units)}
              onChange={() => {
                setPicked(system);
                save.mutate({ units });
              }}
            />
            {system}
          </label>
        ))}
      </p>
      <p>
        <ToShop at="rig">A rig or scale that shows the load</ToShop>,{" "}
        <ToShop at="rack">weights to hang</ToShop>, or a gauge that you read: for the last nothing is to be
        set up.
      </p>
      <ProblemNote problem={save.error} />
    </>
  );
}

function ToShop({ at, children }: { at: string; children: ReactNode }) {
  return (
    <Link to={`/shop#${at}`} className="text-spruce underline underline-offset-4">
      {children}
    </Link>
  );
}

/** A made-up workshop at work, with data of its own. */
function Demo() {
  const start = useMutation<Schemas["DemoView"], Problem>({
    mutationFn: () => take<"DemoView">(api.POST("/api/demo")),
  });
  return (
    <div className="border-t border-rule pt-3">
      {start.data ? (
        <a
          className="font-semibold text-spruce underline underline-offset-4"
          href={start.data.address}
          target="_blank"
          rel="noreferrer"
        >
          Open the demo workshop ({start.data.address})
        </a>
      ) : (
        <Button disabled={start.isPending} onClick={() => start.mutate()}>
          {start.isPending ? "Filling a workshop …" : "Look at a workshop that is at work"}
        </Button>
      )}
      <p className="text-sm text-faded">
        A made-up one, beside yours: nothing that you do there touches your data.
      </p>
      <ProblemNote problem={start.error} />
    </div>
  );
}
