import { useQuery } from "@tanstack/react-query";
import { of } from "../app/asked";
import { api, ok, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { useHere } from "../app/place";

export type StopView = Schemas["StopView"];
export type StopTest = Schemas["StopTest"];
export type Event = Schemas["Event"];

/** The stop circuit of the drive that is open, with its table and what was shown. */
export function useStop() {
  const { view } = useDesk();
  const { place } = useHere();
  const stop = useQuery({
    queryKey: ["stop", view.id, view.seq, place.version],
    queryFn: () => ok(api.GET("/api/drives/{id}/stop", { params: { path: { id: view.id } } })),
    placeholderData: of(view.id),
  });
  return { v: stop.data, error: stop.error };
}

/** A play of events on the circuit as drawn: nothing real is commanded. */
export function usePlay(hash: string, events: Event[], until: number) {
  const { view } = useDesk();
  const play = useQuery({
    queryKey: ["stop-play", view.id, hash, JSON.stringify(events), until],
    enabled: hash !== "",
    queryFn: () => ok(api.POST("/api/drives/{id}/stop/play", { params: { path: { id: view.id } }, body: { events, until_ms: until } })),
    placeholderData: of(view.id),
  });
  return play.data;
}

const lamp = (v: string) => (v === "on" ? "lit" : "dark");

/** What a part shows, in the words of who looks at it. */
export function inWords(v: StopView, part: string, shows: string): string {
  const p = v.parts.find((x) => x.id === part);
  if (p?.does === "lamp") return lamp(shows);
  if (part === v.own && v.words[shows]) return v.words[shows]!;
  return shows.replaceAll("-", " ");
}
