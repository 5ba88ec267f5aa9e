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
          <button
            className="btn"
            disabled={!s.proved || s.energy.state === "dead"}
            onClick={() => void act(() => ok(api.POST("/api/drives/{id}/dead", { params: { path: { id: view.id } } })))}
          >
            {s.energy.state === "dead" ? "Recorded DEAD" : "Record DEAD"}
          </button>
          {s.sources.some((x) => x.measured.length > 0) && (
            <section aria-label="What is recorded" className="text-[13px]">
              <p className="text-ink-2">
                {s.energy.state === "dead" ? "Recorded, by what was measured:" : "It records these, each by what was measured of it:"}
              </p>
              {s.sources.map((x) => (
                <p key={x.id}>
                  <b>{x.name}</b> <span className="n text-ink-2">{x.measured.length ? x.measured.join(" · ") : "not measured"}</span>
                </p>
              ))}
            </section>
          )}
          {!s.proved && (
            <p className="text-[13px] text-ink-3">
              Every check of isolation, wait and measurement must hold first. Until then: not known, treat as live.
            </p>
          )}
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
      <p className="noprint mb-2 flex flex-wrap items-baseline gap-x-4 text-[13px] text-ink-2">
        <span className="max-w-[70ch]">
          One meter from proof to proof, chosen by its number. DC for the link, AC for lines and motor; a meter left on AC reads near zero
          on a DC link.
        </span>
        <a className="act ml-auto" href={`/api/drives/${view.id}/isolation.pdf`}>
          Isolation sheet (PDF)
        </a>
      </p>
      <CheckList gate="dead" />
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
