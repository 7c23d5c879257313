/** Help where it is needed: what a stage is for, the keys, and the words of the trade; by "?" or touch. */
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useEffect, useState } from "react";
import { useLocation } from "react-router";
import { Button } from "./controls";
import { StagePicture } from "./StagePicture";
import { KEYS, STAGES, WORDS } from "./helpTexts";

/** Keys that write somewhere say nothing here. */
const writes = (target: EventTarget | null) =>
  target instanceof HTMLInputElement ||
  target instanceof HTMLTextAreaElement ||
  target instanceof HTMLSelectElement;

export function Help() {
  const [open, setOpen] = useState(false);
  const { pathname } = useLocation();
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key === "?" && !writes(e.target)) {
        e.preventDefault();
        setOpen(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  const place = pathname.split("/")[3] ?? (pathname.slice(1) || "today");
  const stage = STAGES[place] ?? STAGES.today!;
  return (
    <>
      <button
        type="button"
        aria-label="Help: this stage, keys and words"
        aria-keyshortcuts="?"
        className="px-2 py-1 text-lg font-semibold text-spruce"
        onClick={() => setOpen(true)}
      >
        ?
      </button>
      <Dialog open={open} onClose={() => setOpen(false)} className="relative z-20">
        <div className="fixed inset-0 flex items-start justify-center overflow-auto bg-black/60 p-2 sm:p-8">
          <DialogPanel className="sheet w-full max-w-3xl space-y-4 p-4">
            <div className="flex flex-wrap items-baseline gap-x-4">
              <DialogTitle className="text-2xl font-bold">{stage.title}</DialogTitle>
              <Button className="ml-auto" onClick={() => setOpen(false)}>
                Close
              </Button>
            </div>
            <div className="flex flex-wrap gap-x-6 gap-y-2">
              <ul className="min-w-0 flex-1 basis-80 list-disc space-y-1 pl-5">
                {stage.lines.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
              <StagePicture stage={place} />
            </div>
            <List title="Keys" entries={KEYS} mono />
            <List title="Words" entries={WORDS} />
          </DialogPanel>
        </div>
      </Dialog>
    </>
  );
}

interface ListProps {
  title: string;
  entries: readonly (readonly [string, string])[];
  mono?: boolean;
}

function List({ title, entries, mono = false }: ListProps) {
  return (
    <section aria-label={title}>
      <h3 className="head mb-1">{title}</h3>
      <dl className="grid gap-x-4 gap-y-1 sm:grid-cols-[11rem_1fr]">
        {entries.map(([word, what]) => (
          <div key={word} className="contents">
            <dt className={mono ? "font-mono" : "font-semibold"}>{word}</dt>
            <dd className="mb-1 text-faded sm:mb-0">{what}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
