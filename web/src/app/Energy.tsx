import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Dialog } from "../ui/Dialog";
import { api, ok, Refused, say } from "./client";
import { useDesk } from "./drive";
import { newId } from "./ids";
import { useHere, usePlaceEdit } from "./place";

const means: Record<string, string> = {
  match: "Nothing of this gate is done inside the drive.",
  dead: "Unknown is live. Only a measurement proves dead.",
  power: "Dead work: landed, measured and tightened only while it is proved dead.",
  control: "Dead work: landed and measured only while it is proved dead.",
  wake: "Covers on, people clear, before power comes.",
  plate: "Covers on. Keypad work only at this gate.",
  stop: "Torque off is not isolation: the drive's terminals stay live at every step of this gate.",
  turn: "The shaft turns: people clear, somebody at the stop.",
  tune: "A rotating tune turns the shaft at full speed. Torque off is not isolation.",
  span: "Covers on. Keypad work only at this gate.",
  signal: "Covers on. Keypad work only at this gate.",
  sheet: "Settings marked so are refused while the motor runs.",
  keep: "Torque off is not isolation.",
  history: "Torque off is not isolation.",
};

/** What is known of the energy at this drive. Unknown is live. */
export function EnergyBand({ screen }: { screen: string }) {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const e = view.state.energy;
  const live = e.state === "live";
  const dead = e.state === "dead";
  return (
    <section
      aria-label="Energy"
      className={`noprint flex h-[30px] shrink-0 items-center gap-3.5 overflow-hidden border-b border-tin-3 px-4 font-semibold [font-stretch:88%] ${live ? "band-live" : dead ? "band-dead" : "band-not-known"}`}
    >
      <span className="bg-ink px-2.5 py-0.5 tracking-[.06em] whitespace-nowrap text-white [font-stretch:100%]">
        {live ? "LIVE" : dead ? "DEAD, proved" : "NOT KNOWN, treat as live"}
      </span>
      <span className="truncate">{live || dead ? `Supply: ${e.text}` : e.text}</span>
      <span className="truncate font-normal max-lg:hidden">{means[screen]}</span>
      <button className="ml-auto whitespace-nowrap underline" onClick={() => setOpen(true)}>
        Record…
      </button>
      <Dialog open={open} close={() => setOpen(false)} title="Record energy">
        <Record close={() => setOpen(false)} />
      </Dialog>
    </section>
  );
}

function Record({ close }: { close: () => void }) {
  const { place } = useHere();
  const { view, saver, refresh } = useDesk();
  const client = useQueryClient();
  const change = usePlaceEdit();
  const supplies = Object.entries(place.place.supplies ?? {});
  const fed = Object.keys(view.drive.supplies ?? {});
  const [supply, setSupply] = useState(fed[0] ?? supplies[0]?.[0] ?? "");
  const [name, setName] = useState("");
  const [rated, setRated] = useState({ voltage: "", frequency: "" });
  const [volts, setVolts] = useState(["", "", ""]);
  const [told, setTold] = useState("");
  const [note, setNote] = useState("");
  const [against, setAgainst] = useState("");
  const locked = view.state.sources.find((x) => x.id === supply);
  const left = locked?.state.open && locked.locks.length === 0 ? view.state.open_before_power : [];
  const [others, setOthers] = useState(""); // what the server names beside: of other drives behind the same supply
  const [error, setError] = useState("");
  async function send(state: "live" | "not-known") {
    setError("");
    try {
      let id = supply;
      if (!id) {
        if (!name.trim()) return setError("Name the supply that feeds this drive.");
        id = newId();
        await change([
          { path: `supplies.${id}.name`, text: name.trim() },
          { path: `supplies.${id}.voltage`, text: rated.voltage },
          { path: `supplies.${id}.frequency`, text: rated.frequency },
        ]);
      }
      if (!fed.includes(id)) await saver.all([{ path: `supplies.${id}`, text: "true" }], "feeds this drive");
      const list = await ok(
        api.POST("/api/places/{id}/energy", {
          params: { path: { id: place.id } },
          body: {
            id: newId(),
            energy: {
              supply: id,
              state,
              drive: view.id,
              told,
              note,
              against,
              volts: state === "live" ? volts.filter((v) => v.trim()) : [],
            },
          },
        }),
      );
      client.setQueryData(["places"], list);
      refresh();
      close();
    } catch (e) {
      const asked = e instanceof Refused && e.problem.errors.find((x) => x.field === "against");
      if (asked) setOthers(asked.want);
      setError(asked ? `Say ${asked.want}.` : say(e));
    }
  }
  return (
    <div className="flex flex-col gap-3">
      <label>
        <span className="lbl">Supply that feeds this drive</span>
        <select className="cell text" value={supply} onChange={(e) => setSupply(e.target.value)}>
          {supplies.map(([id, s]) => (
            <option key={id} value={id}>
              {s.name}
            </option>
          ))}
          <option value="">another…</option>
        </select>
      </label>
      {!supply && (
        <div className="grid grid-cols-3 gap-2">
          <label>
            <span className="lbl">Its name</span>
            <input className="cell text" value={name} onChange={(e) => setName(e.target.value)} />
          </label>
          <label>
            <span className="lbl">Rated V</span>
            <input className="cell" value={rated.voltage} onChange={(e) => setRated({ ...rated, voltage: e.target.value })} />
          </label>
          <label>
            <span className="lbl">Hz</span>
            <input className="cell" value={rated.frequency} onChange={(e) => setRated({ ...rated, frequency: e.target.value })} />
          </label>
        </div>
      )}
      <fieldset className="grid grid-cols-3 gap-2">
        <legend className="lbl">Measured between lines</legend>
        {["L1–L2", "L2–L3", "L3–L1"].map((l, i) => (
          <label key={l}>
            <span className="lbl">{l}</span>
            <input
              className="cell"
              inputMode="decimal"
              value={volts[i]}
              onChange={(e) => setVolts(volts.map((v, k) => (k === i ? e.target.value : v)))}
            />
          </label>
        ))}
      </fieldset>
      {locked && locked.state.open && (
        <label>
          <span className="lbl">It was opened for work: who was told that it comes back</span>
          <input className="cell text" value={told} onChange={(e) => setTold(e.target.value)} />
        </label>
      )}
      {(left.length > 0 || others) && (
        <section aria-label="Open before power" className="border-l-[5px] border-warn-bar bg-white py-1.5 pr-2 pl-3 text-[13px]">
          <b className="text-warn">▲ Open before power</b>
          <ul className="max-h-32 list-disc overflow-y-auto pl-4" tabIndex={0}>
            {left.map((l) => (
              <li key={l}>{l}</li>
            ))}
          </ul>
          <label>
            <span className="lbl">Answer them at gate Wake first; or say why it comes back against them</span>
            <input className="cell text" value={against} onChange={(e) => setAgainst(e.target.value)} />
          </label>
        </section>
      )}
      {locked && locked.locks.length > 0 && (
        <label>
          <span className="lbl">Locks are on. If it was found live behind them, say where</span>
          <input className="cell text" value={note} onChange={(e) => setNote(e.target.value)} />
        </label>
      )}
      <p className="text-[13px] text-ink-2">
        Dead is proved at gate Dead, by measurement at the drive, by the local code and the maker's manual. Until then: not known, treat as
        live.
      </p>
      {error && <p className="text-stop">✕ {error}</p>}
      <div className="flex gap-2">
        <button className="btn" onClick={() => void send("live")}>
          It is live
        </button>
        <button className="ghost" onClick={() => void send("not-known")}>
          Not known any more: left, or may be back
        </button>
      </div>
    </div>
  );
}
