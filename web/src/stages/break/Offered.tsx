/** Which piece is offered next: what waits and why, and the order that is wanted on this device. */
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { clock, clockOf, counted } from "../../parts/units";
import { useDevice } from "../../parts/useDevice";
import { useNow } from "../../parts/useNow";

export const BLIND = "break.blind";
export const GROUPS = "break.groups";
export const EARLY = "break.early";
export const WEIGHTS = "break.weights";

/** Pieces are left, and none of them may be broken yet. */
export function NothingDue({ view }: { view: Schemas["BreakView"] }) {
  const [, setEarly] = useDevice(EARLY);
  const { pieces, not_glued, first_at } = view.waiting;
  const said = [
    not_glued > 0 && `${counted(not_glued, "of them is", "of them are")} not glued yet`,
    first_at && `the next comes of age ${clock(first_at)}`,
  ].filter(Boolean);
  return (
    <div className="sheet space-y-2 px-4 py-6">
      <p className="text-xl">Nothing is to be broken now.</p>
      <p className="text-faded">
        {counted(pieces, "piece waits", "pieces wait")}
        {said.length > 0 && `: ${said.join(", ")}`}. One can be taken from the list all the same: it is asked
        about, and noted.
      </p>
      <Button onClick={() => setEarly(true)}>Offer them before they are due</Button>
    </div>
  );
}

const CHOICES = [
  [BLIND, "blind: treatments are not named"],
  [GROUPS, "treatment by treatment"],
  [EARLY, "offer pieces that are not due"],
] as const;

/** How pieces are offered on this device; as it is planned, in random order, unless something is said. */
export const Choices = ({ batch }: { batch: number }) => (
  <fieldset className="no-print flex flex-wrap gap-x-5 gap-y-1 text-sm">
    <legend className="sr-only">How pieces are offered</legend>
    {CHOICES.map(([key, name]) => (
      <Choice key={key} of={key} name={name} />
    ))}
    <FootSwitch />
    <Link className="text-spruce underline underline-offset-4" to={`/batch/${batch}/testing-sheet`}>
      Testing sheet: print it, or type it back
    </Link>
  </fieldset>
);

const FOOT = "adhaero.break.foot";

/** A foot switch sends a key: whichever it is, it does what the large button on the screen does. */
function FootSwitch() {
  const [key, setKey] = useState(() => localStorage.getItem(FOOT) ?? "");
  const [learning, setLearning] = useState(false);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (learning) {
        e.preventDefault();
        localStorage.setItem(FOOT, e.key);
        setKey(e.key);
        setLearning(false);
      } else if (key && e.key === key && !(e.target instanceof HTMLInputElement)) {
        e.preventDefault();
        document.querySelector<HTMLButtonElement>("[data-bench]:not(:disabled)")?.click();
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [key, learning]);
  return (
    <button
      type="button"
      className="text-spruce underline underline-offset-4"
      onClick={() => setLearning(!learning)}
    >
      {learning ? "press the foot switch now" : `foot switch${key ? ` (${key})` : ""}`}
    </button>
  );
}

function Choice({ of, name }: { of: string; name: string }) {
  const [on, set] = useDevice(of);
  return (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        className="size-5"
        checked={on === true}
        onChange={(e) => set(e.target.checked)}
      />
      {name}
    </label>
  );
}

/** Wet wood dries while one looks for the fixture. */
export function OutSince({ at }: { at: string }) {
  const now = useNow();
  return (
    <p role="timer" aria-label="Out of its conditioning">
      Out of its conditioning for{" "}
      <strong className="tabular-nums">{clockOf((now - new Date(at).getTime()) / 1000)}</strong>
    </p>
  );
}
