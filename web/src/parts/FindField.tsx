/** Where to type a code, a mark, a board or a word of a note: it is looked for in everything on record. */
import { useState } from "react";
import { useNavigate } from "react-router";

export function FindField() {
  const [text, setText] = useState("");
  const go = useNavigate();
  return (
    <form
      role="search"
      className="order-last w-full pb-1 sm:order-none sm:ml-auto sm:w-auto sm:pb-0"
      onSubmit={(e) => {
        e.preventDefault();
        if (text.trim().length > 1) void go(`/find?text=${encodeURIComponent(text.trim())}`);
      }}
    >
      <input
        type="search"
        aria-label="Find on record"
        placeholder="find a code or a word"
        className="written w-full sm:w-48"
        value={text}
        onChange={(e) => setText(e.target.value)}
      />
    </form>
  );
}
