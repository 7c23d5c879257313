/** What the browser of this device allows on this page, and what to do where it does not. */
import { deskAhead } from "../../api/deskClock";
import { useDoor } from "../../api/door";
import { span } from "../../parts/units";

const LOOPBACK = ["127.0.0.1", "localhost", "[::1]"];

function abilities(): readonly (readonly [string, boolean])[] {
  return [
    ["keeps the screen awake at the bench", "wakeLock" in navigator],
    ["opens bench and break without the desk", "serviceWorker" in navigator],
    ["reminds by notifications", window.isSecureContext && "Notification" in window],
    // Through the system's own dialog, which asks for no secure page.
    ["takes photos with its camera", true],
  ];
}

export function ThisDevice() {
  const { data } = useDoor();
  const secure = data?.secure ?? [];
  const told = abilities();
  const off = deskAhead();
  const lacking = told.filter(([, can]) => !can);
  const here = secure.find((a) => new URL(a).hostname === location.hostname) ?? secure[0];
  return (
    <details className="text-sm" open={lacking.length > 0 && !window.isSecureContext}>
      <summary className="cursor-pointer text-spruce">What this device can do here</summary>
      <ul className="mt-1 list-disc pl-5">
        {told.map(([what, can]) => (
          <li key={what}>
            {can ? "It " : "Not here: it "}
            {what}
            {can ? "." : window.isSecureContext ? "; this browser has no such thing." : "."}
          </li>
        ))}
      </ul>
      {off !== 0 && (
        <p>
          Its clock is {span(Math.abs(off))} {off > 0 ? "behind" : "ahead of"} the desk’s: times are taken by
          the desk’s.
        </p>
      )}
      {!window.isSecureContext && (
        <div className="mt-1 space-y-1">
          <p>
            Browsers allow this on secure pages only. Everything else at the bench works as it is, and an open
            page goes on when the connection is lost; it only must not be closed until it is back.
          </p>
          {here && (
            <ol className="list-decimal pl-5">
              <li>
                <a className="text-spruce underline underline-offset-4" href="/api/door/certificate" download>
                  Save the shop’s certificate
                </a>{" "}
                on this device. It vouches for addresses of a house network only.
              </li>
              <li>
                Trust it: in the settings of the device, under security, as the certificate of an authority.
              </li>
              <li>
                Open{" "}
                <a className="text-spruce underline underline-offset-4" href={`${here}/`}>
                  {here}
                </a>{" "}
                from then on. It stays paired.
              </li>
            </ol>
          )}
        </div>
      )}
      {window.isSecureContext && !LOOPBACK.includes(location.hostname) && (
        <p>This page is secure: the device trusts the shop’s certificate.</p>
      )}
    </details>
  );
}
