/** The air at places where pieces stand: what a logger wrote, and what it came to. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useAir, useWrite, writes } from "../../api/queries";
import { ProblemNote } from "../../parts/controls";
import { clock, counted } from "../../parts/units";

export function Climate() {
  const { data } = useAir();
  const [place, setPlace] = useState("");
  const add = useWrite((body: Schemas["ClimateIn"]) => writes.climate(body));
  return (
    <section aria-labelledby="climate" className="mt-8">
      <h2 id="climate" className="mb-2 text-xl font-bold">
        Air
      </h2>
      <ul>
        {(data?.places ?? []).map((p) => (
          <li key={p.place} className="border-t border-rule py-2">
            <span className="font-semibold wrap-anywhere">{p.place}</span>{" "}
            <span className="text-faded">
              {p.summary}; {counted(p.readings, "reading")} from {clock(p.first)} to {clock(p.last)}
            </span>
          </li>
        ))}
        {data?.places.length === 0 && <li className="text-faded">Nothing was read yet.</li>}
      </ul>
      <p className="leading-10">
        At{" "}
        <input
          aria-label="Place of the logger"
          className="written w-40"
          placeholder="shelf A"
          value={place}
          onChange={(e) => setPlace(e.target.value)}
        />{" "}
        a logger wrote{" "}
        <input
          type="file"
          aria-label="File of the logger"
          accept=".csv,.txt,text/csv"
          className="max-w-full text-sm"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) void file.text().then((text) => add.mutate({ place, text }));
          }}
        />
      </p>
      <p className="text-sm text-faded">
        A table with the columns time, temperature in °C and humidity in %. Note of joints under Glue where
        they are kept: each gets the air of its own stay.
      </p>
      {add.isSuccess && (
        <p role="status" className="text-sm text-faded">
          Taken in.
        </p>
      )}
      <ProblemNote problem={add.error} />
    </section>
  );
}
