import { useEffect, useRef, useState } from "react";
import { api, ok } from "../app/client";
import { useDesk } from "../app/drive";
import { Locks } from "../app/Locks";
import { Discharge } from "../picture/Discharge";
import { OneLine } from "../picture/OneLine";
import { CheckList } from "../ui/CheckList";
import { GateScreen } from "./GateScreen";
import { Sources } from "./Sources";

/** Isolated, locked, waited out, proved dead by measurement. Nobody opens it live. */
export function Dead() {
  const { view, act } = useDesk();
  const s = view.state;
  const [meter, setMeter] = useState(localStorage.getItem("tingate.meter") ?? "");
  const [range, setRange] = useState("1000 V DC");
  return (
    <GateScreen
      gate="dead"
      title="Dead"
      about="Open and lock every source, wait, then measure. A dark display is no proof. Torque off is not isolation. Never touch boards; do not short the link. The local rules and the maker's manual come first."
      beside={
        <>
          <Countdown />
          <h2>Discharge of the DC link</h2>
          <Discharge state={s.discharge} />
          <button className="btn" disabled={!s.proved || s.energy.state === "dead"} onClick={() => void act(() => ok(api.POST("/api/drives/{id}/dead", { params: { path: { id: view.id } } })))}>
            {s.energy.state === "dead" ? "Recorded DEAD" : "Record DEAD"}
          </button>
          {s.sources.some((x) => x.measured.length > 0) && (
            <section aria-label="What is recorded" className="text-[13px]">
              <p className="text-ink-2">{s.energy.state === "dead" ? "Recorded, by what was measured:" : "It records these, each by what was measured of it:"}</p>
              {s.sources.map((x) => (
                <p key={x.id}>
                  <b>{x.name}</b> <span className="n text-ink-2">{x.measured.length ? x.measured.join(" · ") : "not measured"}</span>
                </p>
              ))}
            </section>
          )}
          {!s.proved && <p className="text-[13px] text-ink-3">Every check of isolation, wait and measurement must hold first. Until then: not known, treat as live.</p>}
        </>
      }
    >
      <OneLine sources={s.sources} drive={view.drive.tag || "drive"} motor={view.drive.motor?.makers_type ?? ""} />
      <div className="mt-1 mb-3 flex flex-col gap-1">
        {s.sources
          .filter((x) => x.locks.length > 0)
          .map((x) => (
            <div key={x.id} className="flex items-center gap-2 text-[13px]">
              <span className="text-ink-2">Locks on {x.name}:</span> <Locks source={x} />
            </div>
          ))}
      </div>
      <Sources />
      <div className="noprint mb-3.5 flex flex-wrap items-end gap-3 border border-tin-3 bg-tin-0 px-3.5 py-2.5">
        <label>
          <span className="lbl">Meter</span>
          <input
            className={`cell text ${meter.trim() ? "" : "bad"}`}
            value={meter}
            placeholder="its number"
            onChange={(e) => {
              setMeter(e.target.value);
              localStorage.setItem("tingate.meter", e.target.value);
            }}
          />
        </label>
        <label>
          <span className="lbl">Range it stands on</span>
          <select className="cell text" value={range} onChange={(e) => setRange(e.target.value)}>
            {["1000 V DC", "600 V DC", "1000 V AC", "600 V AC", "auto AC+DC"].map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
        <p className="max-w-[38ch] pb-1 text-[13px] text-ink-2">Goes with every reading below: one meter from proof to proof, with its number. DC for the link, AC for lines and motor; a meter left on AC reads near zero on a DC link.</p>
        <a className="act ml-auto" href={`/api/drives/${view.id}/isolation.pdf`}>
          Isolation sheet (PDF)
        </a>
      </div>
      <CheckList gate="dead" meter={`${meter}, ${range}`.replace(/^, /, "")} />
    </GateScreen>
  );
}

/** The wait by the label. It only forbids. */
function Countdown() {
  const { view, refresh } = useDesk();
  const w = view.state.wait;
  const [left, setLeft] = useState(w.left_s);
  const again = useRef(refresh);
  useEffect(() => {
    again.current = refresh;
  });
  useEffect(() => {
    setLeft(w.left_s);
    if (!(w.left_s > 0)) return;
    const end = performance.now() + w.left_s * 1000;
    let ticks = 0;
    const t = setInterval(() => {
      if (++ticks % 10 === 0) again.current(); // the server's clock counts, not this one
      const now = Math.max(0, (end - performance.now()) / 1000);
      setLeft(now);
      if (now <= 0) {
        clearInterval(t);
        again.current();
      }
    }, 500);
    return () => clearInterval(t);
  }, [w.left_s, w.until]);
  if (!w.from) return null;
  return (
    <section aria-label="Wait" className={`border-l-[5px] bg-white px-3 py-2 ${w.over ? "border-tin-4" : "border-stop"}`}>
      <h3 className="text-[14px]">{w.over ? "The wait is over: measure" : "Wait. Do not open covers"}</h3>
      {!w.over && (
        <p className="n text-[34px] leading-tight font-semibold" role="timer">
          {Math.floor(left / 60)}:{String(Math.floor(left % 60)).padStart(2, "0")}
        </p>
      )}
      <p className="text-[13px] text-ink-2">
        {w.minutes} min, {w.source}. It permits nothing.
      </p>
    </section>
  );
}
