import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { of } from "../app/asked";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere, useWhen } from "../app/place";
import { blinks } from "../family/KeypadCard";

type Stop = Schemas["RouteStop"];

/** The way through the keypad: what is still to be entered, in the order that asks for few key presses. */
export function Keypad() {
  const { view, act } = useDesk();
  const [at, setAt] = useState("");
  const [running, setRunning] = useState(false);
  const [remote, setRemote] = useState(false);
  const route = useQuery({
    queryKey: ["route", view.id, view.seq, at, running, remote],
    queryFn: () => ok(api.GET("/api/drives/{id}/route", { params: { path: { id: view.id }, query: { at, running, remote } } })),
    placeholderData: of(view.id),
  });
  const stops = route.data?.stops ?? [];
  async function entered(s: Stop) {
    if (
      await act(() => ok(api.POST("/api/drives/{id}/entered", { params: { path: { id: view.id } }, body: { id: newId(), code: s.code } })))
    )
      setAt(s.code);
  }
  return (
    <div className="p-3">
      <div className="mb-3 flex flex-wrap items-end gap-4">
        <label>
          <span className="lbl">The keypad stands at</span>
          <select className="cell text" value={at} onChange={(e) => setAt(e.target.value)}>
            <option value="">its home display</option>
            {view.state.lines.map((l) => (
              <option key={l.code} value={l.code}>
                {l.code} {l.name}
              </option>
            ))}
          </select>
        </label>
        <Toggle label="Motor" on={running} set={setRunning} words={["stands", "runs"]} />
        <Toggle label="Command" on={remote} set={setRemote} words={["here", "remote"]} />
        {route.data && stops.length > 0 && (
          <p className="pb-1.5 text-[13px] text-ink-2" role="status">
            {stops.length} to enter, {route.data.presses} key presses to reach and keep them.{" "}
            {route.data.entered > 0 && `${route.data.entered} entered and to be read back.`}
          </p>
        )}
      </div>
      {route.error && <p className="text-stop">✕ {say(route.error)}</p>}
      {route.data && stops.length === 0 && (
        <p className="bg-tin-0 p-3 text-ink-2">
          {route.data.entered > 0
            ? `${route.data.entered} settings are entered. Read them back: type what the keypad shows under To enter, or read the drive.`
            : "Nothing is left to enter at the keypad."}
        </p>
      )}
      <ol className="border-t border-tin-2">
        {stops.map((s, i) => (
          <StopRow key={s.code} stop={s} first={i === 0} entered={() => void entered(s)} />
        ))}
        {route.data && stops.length > 0 && (
          <li className="border-b border-tin-2 px-2 py-2 text-[13.5px]">
            <b>Last, leave the edit</b>
            {route.data.home.do && <>: {route.data.home.do}</>}
            {route.data.home.shows && <>; it shows {route.data.home.shows}</>}. {blinks[route.data.blinking]}
          </li>
        )}
      </ol>
      {route.data && route.data.refused.length > 0 && (
        <section className="mt-4 border-l-[5px] border-warn-bar bg-tin-0 p-3">
          <h3 className="mb-1">▲ Refused now: {route.data.refused.length}</h3>
          <ul className="text-[13.5px]">
            {route.data.refused.map((r) => (
              <li key={r.code} className="py-0.5">
                <b className="n">{r.code}</b> {r.why}: {r.do}.
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function Toggle({ label, on, set, words }: { label: string; on: boolean; set: (v: boolean) => void; words: [string, string] }) {
  return (
    <div role="group" aria-label={label}>
      <span className="lbl">{label}</span>
      {words.map((w, i) => (
        <button
          key={w}
          aria-pressed={on === (i === 1)}
          className={`-mr-px h-[34px] border border-tin-3 px-3 ${on === (i === 1) ? "bg-ink text-white" : "bg-tin-0"}`}
          onClick={() => set(i === 1)}
        >
          {w}
        </button>
      ))}
    </div>
  );
}

/** A gesture as a key cap: the key, and how often. */
export function Gesture({ g }: { g: Schemas["Gesture"] }) {
  return (
    <kbd className="kb">
      {g.key}
      {g.times > 1 && <b className="font-semibold text-plum"> ×{g.times}</b>}
    </kbd>
  );
}

function StopRow({ stop: s, first, entered }: { stop: Stop; first: boolean; entered: () => void }) {
  const { place } = useHere();
  const when = useWhen();
  return (
    <li
      className={`grid grid-cols-[minmax(0,1fr)_auto_auto] items-center gap-x-4 gap-y-1 border-b border-tin-2 py-2 ${first ? "bg-plum-0" : ""} px-2`}
      data-stop={s.code}
    >
      <div className="min-w-0">
        <b className="n text-[15px]">{s.code}</b> <span className="text-[13.5px]">{s.name}</span>
        {s.motion && <span className="text-[13px] text-warn"> ▲ could start motion</span>}
        <span className="mt-0.5 flex flex-wrap items-center gap-1">
          {s.go.length === 0 && <span className="text-[12.5px] text-ink-3">stands here</span>}
          {s.go.map((g, i) => (
            <Gesture key={i} g={g} />
          ))}
          <span aria-hidden="true" className="text-ink-3">
            →
          </span>
          {s.value.map((g, i) => (
            <Gesture key={i} g={g} />
          ))}
        </span>
        <Aside stop={s} />
        {s.entered && (
          <span className="text-[12.5px] text-ink-3">
            entered as {s.entered.text} {when(s.entered.at)} {place.place.people?.[s.entered.by]?.initials}
          </span>
        )}
      </div>
      <span className="n text-right text-[22px] font-semibold">{s.set_to}</span>
      <button className={first ? "btn" : "ghost"} onClick={entered} aria-label={`${s.code} entered`}>
        Entered
      </button>
    </li>
  );
}

/** What an edit voids or moves, and when it acts, beside the line. */
function Aside({ stop: s }: { stop: Stop }) {
  const parts = [
    s.voids.includes("tune") && "voids a finished tune",
    s.voids.filter((v) => v !== "tune").length > 0 && `puts ${s.voids.filter((v) => v !== "tune").join(", ")} back to delivery`,
    s.moves.length > 0 && `${s.moves.join(", ")} go along: read them again`,
    s.acting.replace(/\.$/, "").toLowerCase(),
  ].filter(Boolean);
  return parts.length ? <span className="block text-[12.5px] text-ink-2">{parts.join("; ")}.</span> : null;
}
