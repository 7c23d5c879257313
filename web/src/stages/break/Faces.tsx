/** The faces of a broken piece, laid open: painted, or judged in steps; a photo may propose. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { judgeFace, proposeFace, useFace } from "../../api/faces";
import { usePhotos } from "../../api/photos";
import { useWrite } from "../../api/queries";
import { Button, ProblemNote } from "../../parts/controls";
import { FaceGrid } from "../../parts/FaceGrid";
import { clock } from "../../parts/units";
import { Crop, WHOLE, type Box } from "./Crop";
import { Steps } from "./FaceSteps";

type View = Schemas["FaceView"];
type Side = "A" | "B";
const SIDES: readonly Side[] = ["A", "B"];

interface Props {
  batch: number;
  code: string;
}

export function Faces({ batch, code }: Props) {
  const [open, setOpen] = useState(false);
  const { data } = useFace(batch, code, open);
  return (
    <details open={open} onToggle={(e) => setOpen(e.currentTarget.open)} className="no-print">
      <summary className="cursor-pointer font-semibold">The broken faces of {code}</summary>
      {data && <Both key={`${code} ${data.verdicts.length}`} batch={batch} view={data} />}
    </details>
  );
}

const blank = (n: number) => ".".repeat(n);

function Both({ batch, view }: { batch: number; view: View }) {
  const code = view.code;
  const known = view.maps["A"] ?? view.maps["B"];
  const [grid, setGrid] = useState<readonly [number, number]>([known?.columns ?? 12, known?.rows ?? 8]);
  const [cells, setCells] = useState<Record<Side, string>>({
    A: view.maps["A"]?.cells ?? blank(grid[0] * grid[1]),
    B: view.maps["B"]?.cells ?? blank(grid[0] * grid[1]),
  });
  const [proposed, setProposed] = useState<Partial<Record<Side, string>>>({});
  const [brush, setBrush] = useState("w");
  const [zoom, setZoom] = useState(1);
  const [mirror, setMirror] = useState(false);
  const [photos, setPhotos] = useState<Partial<Record<Side, number>>>({});
  const [boxes, setBoxes] = useState<Record<Side, Box>>({ A: WHOLE, B: WHOLE });
  const { data: shots = [] } = usePhotos("piece", code, batch);
  const save = useWrite((body: Schemas["JudgedIn"]) => judgeFace(batch, code, body), batch);
  const suggest = useWrite(
    ([side, photo]: [Side, number]) =>
      proposeFace(batch, code, {
        photo_id: photo,
        box: [...boxes[side]],
        columns: grid[0],
        rows: grid[1],
      }).then((m) => [side, m.cells] as const),
    batch,
  );
  const painted = SIDES.filter((s) => /[^.]/.test(cells[s]));
  const seen = (s: string) => (mirror ? flipped(s, grid[0]) : s);
  const place = (side: Side, i: number) =>
    side === "B" && mirror ? i - (i % grid[0]) + (grid[0] - 1 - (i % grid[0])) : i;
  const width = 250 * zoom;
  return (
    <div className="mt-2 space-y-2 text-sm">
      <Steps
        view={view}
        busy={save.isPending}
        onPick={(how, wood_pct) => save.mutate(blankVerdict(how, wood_pct))}
      />
      <p className="flex flex-wrap items-center gap-x-3 gap-y-1" role="group" aria-label="Brush">
        {Object.entries(view.kinds).map(([key, name]) => (
          <label key={key} className="flex items-center gap-1.5">
            <input
              type="radio"
              name="brush"
              className="size-5"
              checked={brush === key}
              onChange={() => setBrush(key)}
            />
            {name} <kbd className="text-faded">{key}</kbd>
          </label>
        ))}
        <label>
          fields{" "}
          <select
            aria-label="Fields of the grid"
            className="written"
            value={grid.join(" ")}
            onChange={(e) => {
              const [c = 12, r = 8] = e.target.value.split(" ").map(Number);
              setGrid([c, r]);
              setCells({ A: blank(c * r), B: blank(c * r) });
              setProposed({});
            }}
          >
            {view.grids.map(([c, r]) => (
              <option key={c} value={`${c} ${r}`}>
                {c} × {r}
              </option>
            ))}
          </select>
        </label>
        <Button look="quiet" onClick={() => setZoom(zoom >= 2 ? 1 : zoom + 0.5)}>
          {zoom >= 2 ? "smaller" : "larger"}
        </Button>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="size-5"
            checked={mirror}
            onChange={(e) => setMirror(e.target.checked)}
          />
          B as it lay on A
        </label>
      </p>
      <div className="flex flex-wrap gap-4 overflow-x-auto">
        {SIDES.map((side) => (
          <div key={side}>
            <p className="flex flex-wrap items-baseline gap-x-2">
              <strong>Face {side}</strong>
              {shots.length > 0 && (
                <select
                  aria-label={`Photo under face ${side}`}
                  className="written"
                  value={photos[side] ?? ""}
                  onChange={(e) => setPhotos({ ...photos, [side]: Number(e.target.value) || undefined })}
                >
                  <option value="">no photo under it</option>
                  {shots.map((p) => (
                    <option key={p.id} value={p.id}>
                      {[p.member && `member ${p.member}`, p.caption || clock(p.at)]
                        .filter(Boolean)
                        .join(", ")}
                    </option>
                  ))}
                </select>
              )}
              {photos[side] !== undefined && (
                <Button
                  disabled={suggest.isPending}
                  onClick={() =>
                    suggest.mutate([side, photos[side] ?? 0], {
                      onSuccess: ([s, found]) => {
                        setCells((old) => ({ ...old, [s]: found }));
                        setProposed((old) => ({ ...old, [s]: found }));
                      },
                    })
                  }
                >
                  Propose from the photo
                </Button>
              )}
            </p>
            <FaceGrid
              label={`Face ${side} of ${code}`}
              columns={grid[0]}
              rows={grid[1]}
              cells={side === "B" ? seen(cells.B) : cells.A}
              kinds={view.kinds}
              brush={brush}
              aspect={Math.min(4, Math.max(0.4, view.length_mm / view.width_mm))}
              width={width}
              photo={photos[side] === undefined ? undefined : `/api/photos/${photos[side]}`}
              box={boxes[side]}
              onBrush={setBrush}
              onPaint={(i, kind) =>
                setCells((old) => ({ ...old, [side]: painting(old[side], place(side, i), kind) }))
              }
            />
            {photos[side] !== undefined && (
              <Crop
                key={photos[side]}
                src={`/api/photos/${photos[side]}`}
                side={side}
                box={boxes[side]}
                onChange={(box) => setBoxes((old) => ({ ...old, [side]: box }))}
              />
            )}
            <p className="text-faded">{shares(cells[side], view.kinds)}</p>
          </div>
        ))}
      </div>
      <ProblemNote problem={save.error ?? suggest.error} />
      <Button
        disabled={!painted.length || save.isPending}
        onClick={() =>
          save.mutate({
            how: "map",
            wood_pct: null,
            maps: Object.fromEntries(
              painted.map((s) => [s, { columns: grid[0], rows: grid[1], cells: cells[s] }]),
            ),
            proposed: Object.fromEntries(painted.flatMap((s) => (proposed[s] ? [[s, proposed[s]]] : []))),
          })
        }
      >
        Save the map
      </Button>
      <Verdicts view={view} />
    </div>
  );
}

const HOWS: Readonly<Record<string, string>> = { map: "by a map", steps: "in steps", typed: "typed" };

const blankVerdict = (how: "steps" | "typed", wood_pct: number): Schemas["JudgedIn"] => ({
  how,
  wood_pct,
  maps: {},
  proposed: {},
});

const painting = (cells: string, i: number, kind: string): string =>
  cells.slice(0, i) + kind + cells.slice(i + 1);

const flipped = (cells: string, columns: number): string =>
  (cells.match(new RegExp(`.{${columns}}`, "g")) ?? []).map((row) => [...row].reverse().join("")).join("");

function shares(cells: string, kinds: Readonly<Record<string, string>>): string {
  const judged = cells.replaceAll(".", "");
  if (!judged) return "nothing painted yet";
  return Object.entries(kinds)
    .map(([key, name]) => [name, judged.split(key).length - 1] as const)
    .filter(([, n]) => n > 0)
    .map(([name, n]) => `${((100 * n) / judged.length).toFixed(0)} % ${name}`)
    .join(", ");
}

function Verdicts({ view }: { view: View }) {
  if (!view.verdicts.length) return null;
  return (
    <ol aria-label={`Verdicts about ${view.code}`}>
      {view.verdicts.map((v, i) => (
        <li key={i} className={v.counts ? "" : "text-faded line-through"}>
          {v.wood_pct.toFixed(0)} % wood, {HOWS[v.how] ?? v.how}, {v.assessor || "nobody named"},{" "}
          {clock(v.at)}
          {v.proposed_pct !== null && ` (the photo proposed ${v.proposed_pct.toFixed(0)} %)`}
        </li>
      ))}
      {view.verdicts.filter((v) => v.counts).length > 1 && view.wood_pct !== null && (
        <li className="font-semibold">{view.wood_pct.toFixed(0)} % counts: the mean of those who looked.</li>
      )}
    </ol>
  );
}

/** What is still to be looked at, and how far those agree who looked at the same faces. */
export function Unexamined({ view, onPick }: { view: Schemas["BreakView"]; onPick: (code: string) => void }) {
  const { unexamined, agreement } = view.faces;
  return (
    <div className="text-sm no-print">
      {unexamined.length > 0 && (
        <p aria-label="Not yet examined" className="flex flex-wrap items-baseline gap-x-2">
          <span className="text-faded">Not yet examined: {unexamined.length}</span>
          {unexamined.slice(0, 24).map((code) => (
            <Button key={code} look="quiet" className="font-mono" onClick={() => onPick(code)}>
              {code}
            </Button>
          ))}
        </p>
      )}
      {agreement && (
        <p className="text-faded">
          Where several people judged the same faces ({agreement.faces}), they differ by{" "}
          {agreement.mean_off.toFixed(0)} points of wood failure on average, by{" "}
          {agreement.most_off.toFixed(0)} at most; {agreement.within_ten_pct.toFixed(0)} % of the pairs agree
          within ten.
        </p>
      )}
    </div>
  );
}
