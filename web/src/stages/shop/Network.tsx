/** The shop's network: whether tablets find the desk, the code that lets one in, and who may come in. */
import { useState } from "react";
import { forgetDevice, giveRight, newCode, openNetwork, useNetwork } from "../../api/door";
import { useWrite } from "../../api/queries";
import type { Schemas } from "../../api/client";
import { Button, Notice, ProblemNote } from "../../parts/controls";
import { clock, hour } from "../../parts/units";

type View = Schemas["NetworkView"];

export function Network() {
  const { data } = useNetwork();
  const change = useWrite(openNetwork);
  const code = useWrite(newCode);
  if (!data) return null;
  return (
    <section aria-labelledby="network" className="mt-8 space-y-2">
      <h2 id="network" className="text-xl font-bold">
        The shop’s network
      </h2>
      <p>
        {data.open
          ? "Paired tablets and phones on this network reach the desk."
          : "Only this computer reaches Adhaero: no tablet finds it."}{" "}
        {data.may_change && (
          <Button disabled={change.isPending} onClick={() => change.mutate(!data.open)}>
            {data.open ? "Shut it off" : "Let tablets in"}
          </Button>
        )}
      </p>
      {data.open && (data.addresses.length > 0 ? <Found view={data} /> : <Alone />)}
      {data.withdrawn && (
        <Notice>
          The last code was withdrawn: somebody tried many wrong ones. Look who is on your network, then show
          another.
        </Notice>
      )}
      {data.code && <Code view={data.code} open={data.addresses.length > 0} />}
      {data.may_change && (
        <p>
          <Button disabled={code.isPending} onClick={() => code.mutate()}>
            {data.code ? "Show another code" : "Pair a device"}
          </Button>{" "}
          {!data.open && (
            <span className="text-sm text-faded">another user of this computer needs a code, too</span>
          )}
        </p>
      )}
      <Devices view={data} />
      <ProblemNote problem={change.error ?? code.error} />
    </section>
  );
}

function Found({ view }: { view: View }) {
  return (
    <p className="text-sm text-faded">
      It is found at <span className="font-mono wrap-anywhere">{view.addresses.join(", ")}</span>.
    </p>
  );
}

function Alone() {
  return (
    <Notice>
      This computer has no address of a house network now. Join the network of the shop; the address shows
      here by itself.
    </Notice>
  );
}

function Code({ view, open }: { view: Schemas["CodeView"]; open: boolean }) {
  return (
    <figure className="sheet flex flex-wrap items-center gap-5 px-4 py-3">
      {open && (
        <svg
          role="img"
          aria-label={`2D code of ${view.address}`}
          viewBox={`0 0 ${view.symbol.size} ${view.symbol.size}`}
          className="size-44 bg-white"
          shapeRendering="crispEdges"
        >
          <path d={view.symbol.path} fill="black" />
        </svg>
      )}
      <figcaption className="min-w-0 flex-1">
        {open ? "Scan this with the device, or open " : "Open "}
        <span className="font-mono wrap-anywhere">{view.address.split("#")[0]}</span> on it and type
        <span className="block font-mono text-3xl font-bold tracking-widest">
          {view.text.slice(0, 4)} {view.text.slice(4)}
        </span>
        <span className="text-sm text-faded">
          It lets one device in{view.until && `, until ${hour(view.until)}`}.
        </span>
      </figcaption>
    </figure>
  );
}

function Devices({ view }: { view: View }) {
  const forget = useWrite(forgetDevice);
  const give = useWrite(([id, right]: readonly [string, "bench" | "desk"]) => giveRight(id, right));
  const [asked, setAsked] = useState("");
  if (view.devices.length === 0) return null;
  return (
    <>
      <ul aria-label="Devices that may come in">
        {view.devices.map((d) => (
          <li key={d.id} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-1.5">
            <span className="font-semibold wrap-anywhere">
              {d.name}
              {d.own && ", this one"}
            </span>
            <span className="text-sm text-faded">
              paired {clock(d.paired_at)}, seen {clock(d.seen_at)}
            </span>
            {view.may_change ? (
              <label className="text-sm">
                may{" "}
                <select
                  aria-label={`What ${d.name} may do`}
                  className="written"
                  value={d.right}
                  onChange={(e) => give.mutate([d.id, e.target.value as "bench" | "desk"])}
                >
                  <option value="bench">work at the bench</option>
                  <option value="desk">do what the desk may do</option>
                </select>
              </label>
            ) : (
              d.right === "desk" && <span className="text-sm">may do what the desk may do</span>
            )}
            {(view.may_change || d.own) && asked !== d.id && (
              <Button look="quiet" className="ml-auto py-0" onClick={() => setAsked(d.id)}>
                turn away
              </Button>
            )}
            {asked === d.id && (
              <p className="w-full border-l-4 border-notice bg-notice-pale px-3 py-1.5 text-notice">
                {d.name} reads and writes nothing more until it is paired again; what it entered stays.{" "}
                <Button disabled={forget.isPending} onClick={() => forget.mutate(d.id)}>
                  Turn it away
                </Button>{" "}
                <Button look="quiet" onClick={() => setAsked("")}>
                  leave it
                </Button>
              </p>
            )}
          </li>
        ))}
      </ul>
      <ProblemNote problem={forget.error ?? give.error} />
    </>
  );
}
