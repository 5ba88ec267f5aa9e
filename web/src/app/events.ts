import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { PlaceView, View } from "./client";

/** The one event stream of this tab: whatever changed elsewhere is fetched again. Closed while the tab is hidden. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | null = null;
    const open = () => {
      source?.close();
      source = new EventSource("/api/events");
      source.addEventListener("changed", (e) => {
        const { data, lastEventId } = e as MessageEvent<string>;
        const { doc } = JSON.parse(data) as { doc: string };
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
          if (!have || have.seq < Number(lastEventId)) void client.invalidateQueries({ queryKey: ["drive", doc] });
        }, 80);
      });
    };
    const visible = () => {
      if (document.hidden) {
        source?.close();
        source = null;
      } else {
        open();
        void client.invalidateQueries();
      }
    };
    open();
    document.addEventListener("visibilitychange", visible);
    return () => {
      source?.close();
      document.removeEventListener("visibilitychange", visible);
    };
  }, [client]);
}
