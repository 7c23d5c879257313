/** What a device sees that is not paired: where the code is found, and a place to type it. */
import { useEffect, useState } from "react";
import { forgetAll } from "../../aboard";
import { pair } from "../../api/door";
import { Button, ProblemNote } from "../../parts/controls";
import { useOnDevice } from "../../parts/queue";
import { useWrite } from "../../api/queries";
import { counted } from "../../parts/units";

/** A first name for the device, which can be typed over. */
function guess(): string {
  if (/iPad|Tablet|Android(?!.*Mobile)/.test(navigator.userAgent)) return "Tablet";
  return /Mobi/.test(navigator.userAgent) ? "Phone" : "Computer";
}

export function PairPage() {
  const [code, setCode] = useState(() => location.hash.slice(1));
  const [name, setName] = useState(guess);
  const join = useWrite(pair);
  const { count: waiting } = useOnDevice();
  useEffect(() => {
    // Whoever is turned away keeps nothing of the shop that was read before.
    void forgetAll();
  }, []);
  return (
    <main className="mx-auto max-w-xl space-y-4 px-4 py-10">
      <h1 className="flex items-center gap-2 text-2xl font-bold">
        <img src="/icon.svg" alt="" width="32" height="32" />
        Adhaero
      </h1>
      <p className="text-lg">
        This device is not paired with the shop. At the desk, on the page “Shop”, choose “Pair a device”: scan
        the code that it shows with the camera, or type it here.
      </p>
      <form
        className="sheet space-y-3 px-4 py-4"
        onSubmit={(e) => {
          e.preventDefault();
          // Loaded anew: all that this device asked for before it was let in was refused.
          join.mutate({ code, name }, { onSuccess: () => location.replace("/") });
        }}
      >
        <p className="flex flex-wrap items-baseline gap-x-3 text-lg">
          The code is{" "}
          <input
            aria-label="Code"
            className="written w-44 font-mono text-2xl uppercase"
            autoComplete="off"
            autoCapitalize="characters"
            spellCheck={false}
            autoFocus
            value={code}
            onChange={(e) => setCode(e.target.value)}
          />
        </p>
        <p className="flex flex-wrap items-baseline gap-x-3 text-lg">
          and the desk calls this device{" "}
          <input
            aria-label="Name of this device"
            className="written w-56"
            maxLength={60}
            value={name}
            placeholder="tablet at the window"
            onChange={(e) => setName(e.target.value)}
          />
        </p>
        <ProblemNote problem={join.error} />
        <Button type="submit" look="bench" disabled={join.isPending || !code.trim()}>
          Pair this device
        </Button>
      </form>
      {waiting > 0 && (
        <p>
          {counted(waiting, "entry is", "entries are")} still stored on this device, and sent once it is
          paired.
        </p>
      )}
      <p className="text-faded">
        On the computer that Adhaero runs on, open the address that it printed at its start.
      </p>
    </main>
  );
}
