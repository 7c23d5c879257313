/** A notification of the browser shortly before something is due, where that was allowed; each thing once. */
import { useEffect, useRef } from "react";
import type { Schemas } from "../api/client";
import { deskNow } from "../api/deskClock";

const BEFORE_MS = 5 * 60_000;
const LATE_MS = 60_000;

export function remindersAllowed(): boolean {
  return "Notification" in window && Notification.permission === "granted";
}

/** Ask for the right to notify; false where the browser cannot or may not. */
export async function allowReminders(): Promise<boolean> {
  return "Notification" in window && (await Notification.requestPermission()) === "granted";
}

export function useReminders(due: readonly Schemas["DueView"][]): void {
  const noted = useRef(new Set<string>());
  useEffect(() => {
    const look = () => {
      if (!remindersAllowed()) return;
      for (const d of due) {
        const ahead = new Date(d.at).getTime() - deskNow();
        const key = `${d.batch_id} ${d.what} ${d.at}`;
        if (ahead > BEFORE_MS || ahead < -LATE_MS || noted.current.has(key)) continue;
        noted.current.add(key);
        new Notification(d.what, { body: `${d.pieces} of ${d.batch}`, tag: key });
      }
    };
    look();
    const timer = setInterval(look, 15_000);
    return () => clearInterval(timer);
  }, [due]);
}
