/** A press that could not be done in the end: said on every screen, until something else is pressed. */
import { useEffect, useState } from "react";
import { STICKY } from "./controls";
import { LOST } from "./reading";

export function LostPress() {
  const [said, setSaid] = useState("");
  useEffect(() => {
    const lost = (event: Event) => setSaid(String((event as CustomEvent).detail));
    const pressed = () => setSaid("");
    window.addEventListener(LOST, lost);
    window.addEventListener("pointerdown", pressed);
    return () => {
      window.removeEventListener(LOST, lost);
      window.removeEventListener("pointerdown", pressed);
    };
  }, []);
  if (!said) return null;
  return (
    <p role="alert" className={STICKY}>
      {said}
    </p>
  );
}
