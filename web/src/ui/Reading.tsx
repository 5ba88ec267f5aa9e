import type { ReactNode } from "react";
import type { Answered } from "../app/client";
import { useDesk } from "../app/drive";
import { Finding } from "./Finding";
import { Reason } from "./Reason";

export function ReadingColumn({ children }: { children: ReactNode }) {
  return (
    <aside
      className="flex print:hidden flex-col gap-2.5 border-l border-tin-3 bg-tin-0 p-4 max-lg:border-t max-lg:border-l-0 overflow-y-auto"
      aria-label="What follows and findings"
      tabIndex={0}
    >
      {children}
    </aside>
  );
}

/** Findings of a gate, most severe first, each to be answered: corrected where it stands, or kept with a reason. */
export function Findings({ list, extra }: { list: Answered[]; extra?: (f: Answered) => ReactNode }) {
  const { decide } = useDesk();
  if (list.length === 0) return <p className="text-[13px] text-ink-3">Nothing to say.</p>;
  return (
    <div className="flex flex-col gap-2" aria-live="polite">
      {list.map((f) => (
        <Finding key={f.key + f.field} finding={f}>
          {extra?.(f)}
          {(f.severity === "stop" || f.severity === "look") && !f.kept && f.code !== "not-readable" && !f.code.startsWith("write-") && (
            <Reason
              ask="Keep with a reason"
              label={`Reason to keep: ${f.title}`}
              does="Keep"
              placeholder="why it stays"
              send={(reason) => decide("keep", f.key, reason, f.detail)}
            />
          )}
        </Finding>
      ))}
    </div>
  );
}
