import { useState } from "react";
import { Dialog } from "../ui/Dialog";
import type { BenchView } from "./live";
import type { BenchAct } from "./useBench";
import { useMine } from "./useMine";
import { places } from "./words";

/** Why some things cannot be here, each reason once. */
function reasons(v: BenchView, where: string): [string, string[]][] {
  const out = new Map<string, string[]>();
  for (const f of v.faults) if (f.where === where && f.cannot) out.set(f.cannot, [...(out.get(f.cannot) ?? []), f.text]);
  return [...out];
}

/** What can be wrong with this machine, by the power's way through it; what cannot be is said with its reason. */
export function Breaking({ v, act, open, close }: { v: BenchView; act: BenchAct; open: boolean; close: () => void }) {
  const [dip, setDip] = useState("0.3");
  return (
    <Dialog open={open} close={close} title="Break something" wide>
      <p className="mb-1 text-[13.5px] text-ink-2">
        On the bench only. What is broken in secret is not told here; find it by what the drive does.
      </p>
      <div className="columns-2 gap-x-6 max-sm:columns-1">
        {places.map(([where, title]) => (
          <section key={where} aria-label={title} className="mb-2 break-inside-avoid-column">
            <h3 className="mt-1 mb-0.5 text-[14px]">{title}</h3>
            <ul>
              {v.faults
                .filter((f) => f.where === where && (f.cannot === "" || v.bench.broken.includes(f.key)))
                .map((f) => (
                  <li key={f.key}>
                    <Wrong
                      text={f.text}
                      on={v.bench.broken.includes(f.key)}
                      tick={v.bench.tick}
                      turn={(on) => act({ do: "break", what: f.key, on })}
                    />
                  </li>
                ))}
            </ul>
            {reasons(v, where).map(([why, what]) => (
              <p key={why} className="c mt-0.5 text-[12.5px] leading-tight text-ink-3">
                Not here, {why}: {what.join(", ")}.
              </p>
            ))}
          </section>
        ))}
      </div>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-2 text-[13.5px]">
          The mains away for
          <select className="cell text !h-8 !w-24 !py-0 !text-[13px]" value={dip} onChange={(e) => setDip(e.target.value)}>
            {["0.02", "0.1", "0.3", "1", "3"].map((s) => (
              <option key={s} value={s}>
                {s} s
              </option>
            ))}
          </select>
        </label>
        <button className="ghost" disabled={!v.bench.line} onClick={() => act({ do: "dip", value: Number(dip) })}>
          Let it dip
        </button>
      </div>
      <div className="mt-3 flex flex-wrap gap-3">
        <button className="ghost" onClick={() => act({ do: "hide", n: Math.floor(Math.random() * 1e6) })}>
          Break one in secret
        </button>
        <button className="ghost" onClick={() => act({ do: "mend" })}>
          Mend everything
        </button>
        <button className="btn" onClick={close}>
          Done
        </button>
      </div>
    </Dialog>
  );
}

/** One thing that can be wrong. */
function Wrong({ text, on, tick, turn }: { text: string; on: boolean; tick: number; turn: (on: boolean) => Promise<number | null> }) {
  const [stands, put] = useMine(on, tick);
  return (
    <label className="flex min-h-7 items-center gap-2 text-[13.5px]">
      <input type="checkbox" checked={stands} onChange={(e) => put(e.target.checked, turn(e.target.checked))} /> {text}
    </label>
  );
}
