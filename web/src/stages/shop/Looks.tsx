/** How this device looks: chosen here, and only for it. */
import { LOOKS, SIZES, wear } from "../../parts/looks";
import { useChoice } from "../../parts/useDevice";

export function Looks() {
  return (
    <section aria-labelledby="looks" className="mt-8">
      <h2 id="looks" className="mb-2 text-xl font-bold">
        This device
      </h2>
      <p className="leading-9">
        It is <Choice name="look" label="Colours" choices={LOOKS} />, with{" "}
        <Choice name="text" label="Size of the text" choices={SIZES} /> text.
      </p>
      <p className="text-sm text-faded">Other devices have a look of their own.</p>
    </section>
  );
}

interface Props {
  name: string;
  label: string;
  choices: readonly (readonly [string, string])[];
}

function Choice({ name, label, choices }: Props) {
  const [value, choose] = useChoice(name);
  return (
    <select
      aria-label={label}
      className="written"
      value={value}
      onChange={(e) => {
        choose(e.target.value);
        wear();
      }}
    >
      {choices.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  );
}
