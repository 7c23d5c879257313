/** How the joints are made: what is set at the machines, and the loose parts to cut. */
import type { Schemas } from "../../api/client";

export function Making({ rows }: { rows: readonly Schemas["MakingView"][] }) {
  if (!rows.length) return null;
  return (
    <section aria-label="Making the joints">
      <h2 className="text-lg font-bold">Making the joints</h2>
      <ul>
        {rows.map((m) => (
          <li key={m.form + m.treatments.join() + m.parts.join()} className="border-t border-rule py-1.5">
            <span className="mr-2 font-mono">{m.treatments.join(" ")}</span>
            <span className="font-semibold">{m.form}</span>: {m.settings.join(" ")}
            {m.parts.map((text) => (
              <span key={text} className="block pl-6">
                Cut {text}.
              </span>
            ))}
          </li>
        ))}
      </ul>
    </section>
  );
}
