import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

/** The one event stream of this tab: whatever changed elsewhere is fetched again. Closed while the tab is hidden. */
export function useEvents() {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | null = null;
    const open = () => {
      source?.close();
      source = new EventSource("/api/events");
      source.addEventListener("changed", (e) => {
        const { doc } = JSON.parse((e as MessageEvent<string>).data) as { doc: string };
        void client.invalidateQueries({ queryKey: ["drive", doc] });
        void client.invalidateQueries({ queryKey: ["history", doc] });
        void client.invalidateQueries({ queryKey: ["yard"] });
        void client.invalidateQueries({ queryKey: ["places"] });
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
