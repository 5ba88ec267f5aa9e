import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { PlaceView, View } from "./client";
import { typing } from "./saver";
import { sharedStream } from "./shared";

/** Whatever changed elsewhere is fetched again. One stream serves all windows of this browser; a hidden window does not listen. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    // A reading of a whole drive is a hundred events: what they ask for is fetched once, one answer after the other. An answer that is on
    // its way is never cut off for a newer event, or the screen would stand still until the last of them.
    const wanted = new Map<string, number>();
    const timers = new Map<string, number>();
    const changed = (doc: string, seq: number) => {
      wanted.set(doc, Math.max(wanted.get(doc) ?? 0, seq));
      if (!timers.has(doc))
        timers.set(
          doc,
          window.setTimeout(() => fetched(doc), 80),
        );
    };
    const fetched = (doc: string) => {
      timers.delete(doc);
      const seq = wanted.get(doc)!;
      const open = client.getQueryData<View>(["drive", doc]);
      // that answer may be older than this
      if (client.isFetching({ queryKey: open ? ["drive", doc] : ["places"] }) > 0) return changed(doc, seq);
      if (open && typing(doc)) return changed(doc, seq); // the answer to what is typed tells of this too
      wanted.delete(doc);
      void client.invalidateQueries({ queryKey: ["history", doc] });
      void client.invalidateQueries({ queryKey: ["yard"] });
      // One's own act is answered with the newest view; only what came from elsewhere is fetched.
      if (open) return void (open.seq < seq && client.invalidateQueries({ queryKey: ["drive", doc] }));
      // A place (its people, supplies, energy), or a drive that is not open here.
      void client.invalidateQueries({ queryKey: ["places"] });
      if (client.getQueryData<PlaceView[]>(["places"])?.some((p) => p.id === doc)) void client.invalidateQueries({ queryKey: ["drive"] });
    };
    const stop = sharedStream("/api/events", ["changed"], (t) => changed((JSON.parse(t.data) as { doc: string }).doc, Number(t.id)));
    const visible = () => {
      if (!document.hidden) void client.invalidateQueries(); // what was missed meanwhile
    };
    document.addEventListener("visibilitychange", visible);
    return () => {
      stop();
      timers.forEach((t) => clearTimeout(t));
      document.removeEventListener("visibilitychange", visible);
    };
  }, [client]);
}
