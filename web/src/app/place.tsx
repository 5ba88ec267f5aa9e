import { useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useContext, useState, type ReactNode } from "react";
import { api, ok, say, type PlaceView } from "./client";
import { newId, person } from "./ids";

type Here = {
  place: PlaceView;
  places: PlaceView[];
  choosePlace: (id: string) => void;
  me: string;
  setMe: (id: string) => void;
};

const Context = createContext<Here | null>(null);

export function useHere(): Here {
  const h = useContext(Context);
  if (!h) throw new Error("no place is open");
  return h;
}

/** A stored time in the place's own zone. */
export function useWhen(): (at: string, seconds?: boolean) => string {
  const { place } = useHere();
  let zone = place.place.zone || "UTC";
  try {
    new Intl.DateTimeFormat("sv", { timeZone: zone });
  } catch {
    zone = "UTC"; // a zone that this browser does not know
  }
  return (at, seconds) =>
    Number.isNaN(Date.parse(at))
      ? at
      : new Intl.DateTimeFormat("sv", {
          timeZone: zone,
          year: "numeric",
          month: "2-digit",
          day: "2-digit",
          hour: "2-digit",
          minute: "2-digit",
          second: seconds ? "2-digit" : undefined,
        }).format(new Date(at));
}

/** Changes fields of the place that is open; throws what went wrong. */
export function usePlaceEdit() {
  const { place } = useHere();
  const client = useQueryClient();
  return async (sets: { path: string; text: string }[]) => {
    client.setQueryData(
      ["places"],
      await ok(api.PATCH("/api/places/{id}", { params: { path: { id: place.id } }, body: { id: newId(), edit: newId(), sets } })),
    );
  };
}

export function usePlaces() {
  return useQuery({ queryKey: ["places"], queryFn: () => ok(api.GET("/api/places")) });
}

/** The place that is open, and who works there. */
export function Here({ children, empty }: { children: ReactNode; empty: ReactNode }) {
  const places = usePlaces();
  const [chosen, setChosen] = useState(localStorage.getItem("tingate.place") ?? "");
  const [me, setMe] = useState(person());
  if (places.error) return <p className="p-6">{say(places.error)}</p>;
  if (!places.data) return <p className="p-6">Reading…</p>;
  const place = places.data.find((p) => p.id === chosen) ?? places.data[0];
  if (!place) return empty;
  const value: Here = {
    place,
    places: places.data,
    choosePlace: (id) => {
      localStorage.setItem("tingate.place", id);
      setChosen(id);
    },
    me,
    setMe: (id) => {
      localStorage.setItem("tingate.person", id);
      setMe(id);
    },
  };
  return <Context.Provider value={value}>{children}</Context.Provider>;
}
