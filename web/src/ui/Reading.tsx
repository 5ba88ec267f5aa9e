import { useState, type ReactNode } from "react";
import type { Answered } from "../app/client";
import { useDesk } from "../app/drive";
import { Finding } from "./Finding";

export function ReadingColumn({ children }: { children: ReactNode }) {
  return (
    <aside className="flex print:hidden flex-col gap-2.5 border-l border-tin-3 bg-tin-0 p-4 max-lg:border-t max-lg:border-l-0 lg:overflow-y-auto" aria-label="What follows and findings">
      {children}
    </aside>
  );
}

/** Findings of a gate, most severe first, each to be answered: corrected where it stands, or kept with a reason. */
export function Findings({ list, extra }: { list: Answered[]; extra?: (f: Answered) => ReactNode }) {
  const { decide } = useDesk();
  const [keep, setKeep] = useState("");
  const [reason, setReason] = useState("");
  if (list.length === 0) return <p className="text-[13px] text-ink-3">Nothing to say.</p>;
  return (
    <div className="flex flex-col gap-2" aria-live="polite">
      {list.map((f) => (
        <Finding key={f.key + f.field} finding={f}>
          {extra?.(f)}
          {(f.severity === "stop" || f.severity === "look") && !f.kept && f.code !== "not-readable" && !f.code.startsWith("write-") && keep !== f.key && (
            <button className="act mt-1" onClick={() => setKeep(f.key)}>
              Keep with a reason
            </button>
          )}
          {keep === f.key && (
            <form
              className="mt-1.5 flex gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                void decide("keep", f.key, reason).then((done) => {
                  if (done) setKeep("");
                  setReason("");
                });
              }}
            >
              <input className="cell text" aria-label={`Reason to keep: ${f.title}`} placeholder="why it stays" value={reason} onChange={(e) => setReason(e.target.value)} autoFocus />
              <button className="btn">Keep</button>
            </form>
          )}
        </Finding>
      ))}
    </div>
  );
}
