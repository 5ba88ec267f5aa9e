import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { useLive } from "./live";

export type BenchAct = (a: { do: string; n?: number; on?: boolean; value?: number; what?: string }) => void;

/** The bench of the drive that is open: what it shows, live, and what can be done to it. Never the drive itself. */
export function useBench() {
  const { id, setNotice } = useDesk();
  const path = { path: { id } };
  const first = useQuery({
    queryKey: ["bench", id],
    queryFn: () => ok(api.GET("/api/drives/{id}/bench", { params: { path: { id }, query: { after: -1 } } })),
    staleTime: 0,
  });
  const { view: v, samples, setView } = useLive(id, first.data);
  const act = useCallback<BenchAct>(
    (a) => {
      ok(api.POST("/api/drives/{id}/bench/acts", { params: { path: { id } }, body: a as Schemas["Act"] })).then(
        () => setNotice(""),
        (e) => setNotice(say(e)),
      );
    },
    [id, setNotice],
  );
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
