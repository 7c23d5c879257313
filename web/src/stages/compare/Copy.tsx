/** Take a sentence along together with what it holds for: quoted elsewhere, it keeps its scope. */
import { useState } from "react";
import { Button } from "../../parts/controls";

export function Copy({ text, what }: { text: string; what: string }) {
  const [done, setDone] = useState<boolean | null>(null);
  const copy = async () => {
    try {
      await navigator.clipboard.writeText(text);
      setDone(true);
    } catch {
      setDone(false);
    }
  };
  return (
    <span className="no-print">
      <Button
        look="quiet"
        className="py-0 text-sm"
        aria-label={`Copy with what it holds for: ${what}`}
        onClick={() => void copy()}
      >
        copy
      </Button>
      {done && <span role="status"> copied, with what it holds for</span>}
      {done === false && (
        <textarea
          readOnly
          aria-label="To be copied by hand"
          className="sheet block w-full p-1"
          value={text}
        />
      )}
    </span>
  );
}
