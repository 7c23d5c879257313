/**
 * What a pasted table would become: counts, cells that cannot be read, treatments, and what is still
 * missing.
 */
import { Problem, type Schemas } from "../../api/client";
import type { Foreign } from "../../api/foreign";
import { Button, Notice, ProblemNote } from "../../parts/controls";
import { counted, useUnits } from "../../parts/units";

interface Props {
  seen: Schemas["TablePreview"] | undefined;
  asked: Foreign;
  refused: Problem | null;
  busy: boolean;
  onName: (more: Partial<Foreign>) => void;
  onTake: () => void;
}

export function TableSeen({ seen, asked, refused, busy, onName, onTake }: Props) {
  if (!seen || !asked.text.trim() || !asked.method)
    return (
      <section aria-label="What was understood" className="min-w-0">
        {refused ? (
          <ProblemNote problem={refused} />
        ) : (
          <p className="sheet px-4 py-6 text-faded">
            {asked.text.trim() ? "Choose the method by which they were broken." : "Nothing is pasted yet."}
            <br />
            What was understood is shown here before anything is taken in.
          </p>
        )}
      </section>
    );
  const pieces = seen.counts.value! + seen.counts.at_least! + seen.counts.apart!;
  const missing = seen.problems.length ? new Problem(422, "", seen.problems) : null;
  return (
    <section aria-labelledby="seen" className="min-w-0">
      <h2 id="seen" className="text-xl font-bold" aria-live="polite">
        {seen.sentence}
      </h2>
      <Refused cells={seen.refused} />
      {asked.means && (
        <Notice>
          Averages of pieces that nobody knows are kept beside the pieces, and take part in no comparison.
        </Notice>
      )}
      {seen.doubts.map((text) => (
        <Notice key={text}>{text}</Notice>
      ))}
      <Treatments seen={seen} asked={asked} onName={onName} />
      <ProblemNote problem={missing} />
      <Button look="main" className="mt-3" disabled={busy || !pieces || missing !== null} onClick={onTake}>
        {busy
          ? "Taking in …"
          : seen.refused.length
            ? `Take in the other ${pieces}`
            : `Take in ${counted(pieces, "piece")}`}
      </Button>
      {seen.refused.length > 0 && (
        <p className="mt-1 text-sm text-faded">What is left out stands beside the question of the batch.</p>
      )}
      <ProblemNote problem={refused} />
    </section>
  );
}

function Refused({ cells }: { cells: readonly Schemas["Cell"][] }) {
  if (!cells.length) return null;
  return (
    <ul className="my-2 border-l-4 border-alarm bg-alarm-pale px-3 py-2 text-alarm">
      {cells.slice(0, 12).map((c) => (
        <li key={`${c.row}/${c.column}`}>
          <strong>
            Row {c.row}, column {c.column}
          </strong>{" "}
          {c.text && !c.why.includes(c.text) && <q>{c.text}</q>} {c.why}
        </li>
      ))}
      {cells.length > 12 && <li>And {cells.length - 12} more.</li>}
    </ul>
  );
}

function Treatments({
  seen,
  asked,
  onName,
}: Pick<Props, "asked" | "onName"> & { seen: Schemas["TablePreview"] }) {
  const units = useUnits();
  if (!seen.treatments.length) return null;
  const is = (what: string | undefined, name: string) => what?.toLowerCase() === name.toLowerCase();
  return (
    <div className="my-3 overflow-x-auto">
      <table className="w-full text-left">
        <thead className="head">
          <tr>
            <th scope="col">Treatment</th>
            <th scope="col" className="text-right">
              Exact
            </th>
            <th scope="col" className="text-right">
              At least
            </th>
            <th scope="col" className="text-right">
              Apart
            </th>
            <th scope="col" className="text-right">
              Mean of the exact
            </th>
            <th scope="col" className="pl-6">
              It is
            </th>
          </tr>
        </thead>
        <tbody>
          {seen.treatments.map((t) => (
            <tr key={t.name} className="border-t border-rule">
              <th scope="row" className="font-semibold wrap-anywhere">
                {t.name}
              </th>
              <td className="text-right">{t.values}</td>
              <td className="text-right">{t.at_least}</td>
              <td className="text-right">{t.apart}</td>
              <td className="text-right">{t.mean === null ? "" : units.text(t.mean, seen.dimension)}</td>
              <td className="pl-6">
                <select
                  aria-label={`What ${t.name} is`}
                  className="written"
                  value={is(asked.solid, t.name) ? "solid" : is(asked.control, t.name) ? "control" : ""}
                  onChange={(e) => {
                    const was = { solid: asked.solid ?? "", control: asked.control ?? "" };
                    for (const k of ["solid", "control"] as const) if (is(was[k], t.name)) was[k] = "";
                    onName({ ...was, ...(e.target.value ? { [e.target.value]: t.name } : {}) });
                  }}
                >
                  <option value="">a joint</option>
                  <option value="control">the control</option>
                  <option value="solid">solid wood</option>
                </select>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
