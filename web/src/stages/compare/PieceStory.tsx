/** One piece in full: how it counts, its curve, its story, and whether it is doubted. */
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useState } from "react";
import { Problem, type Schemas } from "../../api/client";
import { doubt, useStory } from "../../api/pieces";
import { useShop, useWrite } from "../../api/queries";
import { Button, Code, ProblemNote, Waiting } from "../../parts/controls";
import { Photos } from "../../parts/Photos";
import { PullCurve } from "../../parts/PullCurve";
import { clock, counted } from "../../parts/units";

type Story = Schemas["Story"];

interface Props {
  batch: number;
  code: string;
  onClose: () => void;
}

export function PieceStory({ batch, code, onClose }: Props) {
  const { data, error } = useStory(batch, code);
  return (
    <Dialog open={code !== ""} onClose={onClose} className="relative z-20">
      <div className="fixed inset-0 flex items-start justify-center overflow-auto bg-black/60 p-2 sm:p-8">
        <DialogPanel className="sheet w-full max-w-3xl space-y-4 p-4">
          <div className="flex flex-wrap items-baseline gap-x-4">
            <DialogTitle>
              <Code size="large">{code}</Code>
            </DialogTitle>
            {data && (
              <span className="text-lg wrap-anywhere">
                <span className="mr-2 font-mono font-semibold">{data.letter}</span>
                {data.label}
                {data.name && <span className="ml-2 text-faded">called {data.name}</span>}
              </span>
            )}
            <Button className="ml-auto" onClick={onClose}>
              Close
            </Button>
          </div>
          {error && (
            <ProblemNote problem={error instanceof Problem ? error : new Problem(0, String(error))} />
          )}
          {data ? <Told batch={batch} story={data} /> : !error && <Waiting what={code} />}
        </DialogPanel>
      </div>
    </Dialog>
  );
}

function Told({ batch, story }: { batch: number; story: Story }) {
  return (
    <>
      <p className="text-lg">
        It {story.counts}.{story.doubt && <strong className="text-notice"> Doubtful.</strong>}
      </p>
      {story.flags.length > 0 && (
        <ul className="list-disc pl-5 text-notice">
          {story.flags.map((text) => (
            <li key={text}>{text}</li>
          ))}
        </ul>
      )}
      {story.pull_id !== null && (
        <PullCurve batch={batch} pull={story.pull_id} resolution={story.resolution_n} height={220} />
      )}
      <dl className="grid gap-x-6 gap-y-1 sm:grid-cols-[max-content_1fr]">
        {story.facts.map((f) => (
          <div key={f.name + f.text} className="contents">
            <dt className="text-faded">{f.name}</dt>
            <dd className="wrap-anywhere">{[f.at && clock(f.at), f.text].filter(Boolean).join(", ")}</dd>
          </div>
        ))}
      </dl>
      <Photos kind="piece" name={story.code} batch={batch} members={story.role === "joint"} />
      {story.broken && <Doubting batch={batch} story={story} />}
      <details>
        <summary className="cursor-pointer">
          {counted(story.history.length, "entry", "entries")} about it
        </summary>
        <ol className="mt-1 space-y-0.5 text-sm">
          {story.history.map((a) => (
            <li key={a.id} className={a.undone ? "text-faded line-through" : ""}>
              {clock(a.at)} {a.summary}
              {a.person && `, ${a.person}`}
              {a.reason && `: ${a.reason}`}
            </li>
          ))}
        </ol>
      </details>
    </>
  );
}

/** A doubt needs a reason and a name, is no deletion, and can be taken back. */
function Doubting({ batch, story }: { batch: number; story: Story }) {
  const [reason, setReason] = useState("");
  const [by, setBy] = useState("");
  const { data: shop } = useShop();
  const write = useWrite((body: Schemas["DoubtIn"]) => doubt(batch, body), batch);
  const doubtful = story.doubt === null;
  return (
    <form
      aria-label="Doubt"
      className="flex flex-wrap items-baseline gap-x-3 gap-y-1"
      onSubmit={(e) => {
        e.preventDefault();
        write.mutate({ code: story.code, by, reason, doubtful }, { onSuccess: () => setReason("") });
      }}
    >
      {story.doubt && (
        <p className="w-full text-notice">
          Doubted by {story.doubt.by} since {clock(story.doubt.at)}: {story.doubt.reason}
        </p>
      )}
      <label className="flex grow items-baseline gap-2">
        why
        <input
          className="written grow"
          maxLength={300}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          placeholder={doubtful ? "what makes it doubtful" : "what cleared it up"}
        />
      </label>
      {shop && !shop.person && (
        <label>
          who <input className="written w-32" value={by} onChange={(e) => setBy(e.target.value)} />
        </label>
      )}
      <Button type="submit" disabled={write.isPending}>
        {doubtful ? "Mark as doubtful" : "No longer doubtful"}
      </Button>
      <p className="w-full text-sm text-faded">
        A doubtful piece still counts; the answers with and without such pieces stand beside each other.
      </p>
      <ProblemNote problem={write.error} />
    </form>
  );
}
