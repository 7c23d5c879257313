/** Whether the desk answers: while it does not, that stands on every screen, with what waits to be sent. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { Link } from "react-router";
import { api, watchReach } from "../api/client";
import { STICKY } from "./controls";
import { useOnDevice } from "./queue";
import { counted, hour } from "./units";

const LOOK_MS = 3_000;

export const useReach = () => useSyncExternalStore(watchReach.subscribe, watchReach.now);

export function Reached() {
  const { away, since } = useReach();
  const { count, trouble, asks } = useOnDevice();
  const client = useQueryClient();
  useEffect(() => {
    if (!away) return;
    const timer = setInterval(() => {
      api.GET("/api/door").then(
        () => void client.invalidateQueries(),
        () => undefined,
      );
    }, LOOK_MS);
    return () => clearInterval(timer);
  }, [away, client]);
  if (!away && count === 0) return null;
  return (
    <p role="status" className={STICKY}>
      {away &&
        `No connection to the desk since ${hour(new Date(since).toISOString())}: ` +
          "what is shown is as it was read last. "}
      {count > 0 &&
        `${counted(count, "entry is", "entries are")} stored on this device and ` +
          `${away ? "sent when it is back" : trouble ? "tried again and again" : "being sent"}. `}
      {!away && trouble}
      {asks && (
        <Link
          className="underline underline-offset-4"
          to={`/batch/${asks.batch}/${asks.what === "tap" ? "bench" : "break"}`}
        >
          The desk did not take one of them: see why
        </Link>
      )}
    </p>
  );
}
