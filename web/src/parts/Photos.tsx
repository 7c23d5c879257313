/** Photos of a piece, a board or a bottle: small in a row, large when pressed; another one is added here. */
import { Dialog, DialogPanel } from "@headlessui/react";
import { useId, useRef, useState } from "react";
import { sendPhoto, takePhotoAway, usePhotos, type Kind } from "../api/photos";
import type { Schemas } from "../api/client";
import { useWrite } from "../api/queries";
import { Button, ProblemNote } from "./controls";
import { Measured } from "./Measured";
import { clock } from "./units";

interface Props {
  kind: Kind;
  name: string;
  batch?: number;
  /** Of a joint: which member a photo shows is asked. */
  members?: boolean;
}

const STAGES: Readonly<Record<string, string>> = {
  cut: "as cut",
  glue: "glued",
  break: "after the break",
};

export function Photos({ kind, name, batch, members = false }: Props) {
  const { data: photos = [] } = usePhotos(kind, name, batch);
  const [open, setOpen] = useState<Schemas["Photo"] | null>(null);
  const [caption, setCaption] = useState("");
  const [member, setMember] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const id = useId();
  const send = useWrite(sendPhoto, batch);
  const away = useWrite(takePhotoAway, batch);
  return (
    <div className="flex flex-wrap items-end gap-2 text-sm no-print">
      {photos.map((p) => (
        <button key={p.id} type="button" className="w-24 text-left" onClick={() => setOpen(p)}>
          <img
            src={`/api/photos/${p.id}`}
            alt={p.caption || `Photo of ${name}`}
            className="h-20 w-24 border border-rule object-cover"
          />
          <span className="block truncate text-faded">
            {[p.member, p.caption || STAGES[p.stage] || clock(p.at)].filter(Boolean).join(" ")}
          </span>
        </button>
      ))}
      <label htmlFor={id} className="cursor-pointer text-spruce underline underline-offset-4">
        add a photo
        <input
          ref={file}
          id={id}
          type="file"
          accept="image/*"
          className="sr-only"
          aria-label={`Photo of ${name}`}
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen)
              send.mutate(
                { kind, name, caption, member, file: chosen },
                {
                  onSuccess: () => setCaption(""),
                  onSettled: () => file.current && (file.current.value = ""),
                },
              );
          }}
        />
      </label>
      {members && (
        <select
          aria-label={`Member that the next photo of ${name} shows`}
          className="written"
          value={member}
          onChange={(e) => setMember(e.target.value)}
        >
          <option value="">the whole</option>
          {["A", "B", "C"].map((m) => (
            <option key={m} value={m}>
              member {m}
            </option>
          ))}
        </select>
      )}
      <input
        aria-label={`What the next photo of ${name} shows`}
        className="written w-40"
        placeholder="of what"
        value={caption}
        onChange={(e) => setCaption(e.target.value)}
      />
      {send.isPending && <span role="status">sending …</span>}
      <ProblemNote problem={send.error} />
      <Dialog open={open !== null} onClose={() => setOpen(null)} className="relative z-20">
        <div className="fixed inset-0 flex items-center justify-center bg-ink/70 p-4">
          <DialogPanel className="sheet max-h-full max-w-full overflow-auto p-3">
            {open && (
              <>
                <Measured
                  src={`/api/photos/${open.id}`}
                  alt={open.caption || `Photo of ${name}`}
                  joint={members && batch !== undefined ? { batch, code: name } : undefined}
                />
                <p className="mt-2 flex flex-wrap items-baseline gap-x-3">
                  <strong>{name}</strong> {open.caption}
                  <span className="text-faded">
                    {[STAGES[open.stage], clock(open.at)].filter(Boolean).join(", ")}
                  </span>
                  <Button
                    look="quiet"
                    className="ml-auto"
                    onClick={() => away.mutate(open.id, { onSuccess: () => setOpen(null) })}
                  >
                    take it away
                  </Button>
                  <Button onClick={() => setOpen(null)}>Close</Button>
                </p>
              </>
            )}
          </DialogPanel>
        </div>
      </Dialog>
    </div>
  );
}
