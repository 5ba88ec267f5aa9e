import { useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { InOrder, type Done } from "./inOrder";
import { useLive } from "./live";

/** Does something to a bench; gives the tick by which it has acted, null when it was not taken. */
export type BenchAct = (a: Done) => Promise<number | null>;

/** After so long without an answer the next act goes, ms. */
const patience = 10_000;

/** The bench of the drive that is open: what it shows, live, and what can be done to it. Never the drive itself. */
export function useBench() {
  const { id, setNotice } = useDesk();
  const path = { path: { id } };
  const first = useQuery({
    queryKey: ["bench", id],
    queryFn: () => ok(api.GET("/api/drives/{id}/bench", { params: { path: { id }, query: { after: -1 } } })),
    staleTime: 0,
    gcTime: 0, // opened again it shows nothing older than now: a switch that is turned is turned from where it stands
  });
  const { view: v, samples, setView } = useLive(id, first.data);
  const queue = useMemo(
    () =>
      new InOrder(
        async (a) => {
          const sent = api.POST("/api/drives/{id}/bench/acts", {
            params: { path: { id } },
            body: a as Schemas["Act"],
            signal: AbortSignal.timeout(patience),
          });
          const { bench } = await ok(sent);
          setNotice("");
          return bench.tick + bench.waiting;
        },
        (e) => setNotice(say(e)),
      ),
    [id, setNotice],
  );
  const act = useCallback<BenchAct>((a) => queue.push(a), [queue]);
  const setUp = async (body: Schemas["BenchSetup"]) => {
    try {
      setView(await ok(api.POST("/api/drives/{id}/bench", { params: path, body })));
      setNotice("");
    } catch (e) {
      setNotice(say(e));
    }
  };
  const end = () => void ok(api.DELETE("/api/drives/{id}/bench", { params: path })).then(() => v && setView({ ...v, there: false }));
  return { v, samples, act, setUp, end, error: first.error ? say(first.error) : "" };
}
