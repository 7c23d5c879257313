/** The time now, ticking. */
import { useEffect, useState } from "react";

export function useNow(every_ms = 1000): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), every_ms);
    return () => clearInterval(timer);
  }, [every_ms]);
  return now;
}
