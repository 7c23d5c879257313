/** The time now by the desk's clock, ticking. */
import { useEffect, useState } from "react";
import { deskNow } from "../api/deskClock";

export function useNow(every_ms = 1000): number {
  const [now, setNow] = useState(() => deskNow());
  useEffect(() => {
    const timer = setInterval(() => setNow(deskNow()), every_ms);
    return () => clearInterval(timer);
  }, [every_ms]);
  return now;
}
