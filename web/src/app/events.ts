import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { PlaceView, View } from "./client";
import { sharedStream } from "./shared";

/** Whatever changed elsewhere is fetched again. One stream serves all windows of this browser; a hidden window does not listen. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    const changed = (doc: string, seq: number) => {
      void client.invalidateQueries({ queryKey: ["history", doc] });
      void client.invalidateQueries({ queryKey: ["yard"] });
      if (!client.getQueryData<View>(["drive", doc])) {
        // A place (its people, supplies, energy), or a drive that is not open here.
        void client.invalidateQueries({ queryKey: ["places"] });
        if (client.getQueryData<PlaceView[]>(["places"])?.some((p) => p.id === doc)) void client.invalidateQueries({ queryKey: ["drive"] });
        return;
      }
      // One's own act is answered with the newest view; only what came from elsewhere is fetched.
      setTimeout(() => {
        const have = client.getQueryData<View>(["drive", doc]);
        if (!have || have.seq < seq) void client.invalidateQueries({ queryKey: ["drive", doc] });
      }, 80);
    };
    const stop = sharedStream("/api/events", ["changed"], (t) => changed((JSON.parse(t.data) as { doc: string }).doc, Number(t.id)));
    const visible = () => {
      if (!document.hidden) void client.invalidateQueries(); // what was missed meanwhile
    };
    document.addEventListener("visibilitychange", visible);
    return () => {
      stop();
      document.removeEventListener("visibilitychange", visible);
    };
  }, [client]);
}
