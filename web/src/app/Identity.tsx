import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Dialog } from "../ui/Dialog";
import { api, ok, say } from "./client";
import { device, newId } from "./ids";
import { useHere } from "./place";

const trades = ["technician", "fitter", "engineer", "learner", "other"] as const;

/** Who works, chosen once in this browser. */
export function Identity({ open, close, forced }: { open: boolean; close: () => void; forced: boolean }) {
  const { place, me, setMe } = useHere();
  const client = useQueryClient();
  const [initials, setInitials] = useState("");
  const [trade, setTrade] = useState<string>("technician");
  const [error, setError] = useState("");
  const people = Object.entries(place.place.people ?? {});
  async function join() {
    if (!initials.trim()) return setError("Type your initials, as you would sign with them.");
    const id = newId();
    try {
      const list = await ok(
        api.PATCH("/api/places/{id}", {
          params: { path: { id: place.id } },
          headers: { "X-Tingate-Person": id, "X-Tingate-Device": device() },
          body: {
            id: newId(),
            edit: newId(),
            sets: [
              { path: `people.${id}.initials`, text: initials.trim() },
              { path: `people.${id}.trade`, text: trade },
            ],
          },
        }),
      );
      client.setQueryData(["places"], list);
      setMe(id);
      close();
    } catch (e) {
      setError(say(e));
    }
  }
  return (
    <Dialog open={open} close={forced ? () => undefined : close} title="Who works?">
      <p className="mb-3 text-ink-2">
        Every entry keeps who made it. There are no passwords yet: this says who you are, it proves nothing.
      </p>
      <div className="flex flex-wrap gap-2">
        {people.map(([id, p]) => (
          <button
            key={id}
            className={id === me ? "btn" : "ghost"}
            onClick={() => {
              setMe(id);
              close();
            }}
          >
            {p.initials} <span className="font-normal">{p.trade}</span>
          </button>
        ))}
      </div>
      <form
        className="mt-4 grid grid-cols-[1fr_1fr_auto] items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          void join();
        }}
      >
        <label>
          <span className="lbl">Somebody else: initials</span>
          <input className="cell text" value={initials} maxLength={8} onChange={(e) => setInitials(e.target.value)} />
        </label>
        <label>
          <span className="lbl">Trade</span>
          <select className="cell text" value={trade} onChange={(e) => setTrade(e.target.value)}>
            {trades.map((t) => (
              <option key={t}>{t}</option>
            ))}
          </select>
        </label>
        <button className="btn">That is me</button>
      </form>
      {error && <p className="mt-2 text-stop">✕ {error}</p>}
    </Dialog>
  );
}
