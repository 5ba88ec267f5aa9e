import { useState } from "react";
import type { Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { useWhen } from "../app/place";
import { Dialog } from "./Dialog";
import { Foot } from "./Foot";
import { Reason } from "./Reason";

const signs: Record<string, string> = { holds: "✓", "look-again": "▲", stops: "✕", "not-done": "○", waived: "⊘" };
const colours: Record<string, string> = {
  holds: "text-good",
  "look-again": "text-warn",
  stops: "text-stop",
  "not-done": "text-ink-3",
  waived: "text-ink-3",
};
const words: Record<string, string> = {
  holds: "holds",
  "look-again": "look again",
  stops: "stops",
  "not-done": "not done",
  waived: "waived",
};

/** What a gate asks for, each with its verdict; confirmed, or waived with a reason, from here. */
export function Checks({ gate }: { gate: Schemas["Gate"] }) {
  const { decide, answer } = useDesk();
  return (
    <ul>
      {gate.checks.map((c) => (
        <li key={c.key} className="border-b border-dotted border-tin-3 py-1.5">
          <div className="flex items-baseline gap-2">
            <span className={`${colours[c.verdict]} w-4 text-center font-bold`} aria-hidden="true">
              {signs[c.verdict]}
            </span>
            <span className="flex-1 font-semibold">{c.title}</span>
            <span className={`c text-[12px] font-semibold ${colours[c.verdict]}`}>{words[c.verdict]}</span>
          </div>
          <div className="pl-6 text-[13px] text-ink-2">
            {c.detail} {c.reason && `Waived: ${c.reason}`}
            <span className="flex gap-4">
              {c.do === "confirm" && (
                <button className="act" onClick={() => void answer(c.key, "confirmed", { seen: c.basis })}>
                  Confirm
                </button>
              )}
            </span>
            {(c.verdict === "not-done" || c.verdict === "look-again") && !c.must && (
              <Reason
                ask="Waive with a reason"
                label={`Reason to waive: ${c.title}`}
                does="Waive"
                placeholder="why"
                send={(reason) => decide("waive", c.key, reason, c.basis)}
              />
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}

/** A title in the middle of a sentence, short: up to its first colon, units as they are. */
const small = (t: string) => t.split(":")[0]!.replace(/^[A-Z](?=[a-z])/, (c) => c.toLowerCase());

/** Pass the gate, and what is still open. */
export function GateFoot({ gate, keys }: { gate: string; keys?: [string, string][] }) {
  const { view, decide } = useDesk();
  const [open, setOpen] = useState(false);
  const when = useWhen();
  const g = view.state.gates.find((x) => x.key === gate);
  if (!g) return null;
  const left = g.checks.filter((c) => c.verdict !== "holds" && c.verdict !== "waived");
  const named = [...new Set(left.map((c) => small(c.title)))];
  return (
    <Foot
      keys={
        keys ?? [
          ["next field", "Enter"],
          ["undo", "Ctrl Z"],
        ]
      }
    >
      <button className="btn" disabled={left.length > 0 || g.mark === "passed"} onClick={() => void decide("pass", gate)}>
        {g.mark === "passed" ? "Passed" : "Pass gate"}
      </button>
      <button className="line-clamp-2 min-w-0 text-left leading-snug hover:underline" onClick={() => setOpen(true)}>
        {left.length === 0 ? (
          <>
            {g.total - g.waived} of {g.total} checks hold{g.waived > 0 && <b className="font-semibold">, {g.waived} waived</b>}
            {g.passed_at && g.mark === "passed" && <span className="text-ink-3"> · passed {when(g.passed_at)}</span>}
          </>
        ) : (
          <>
            {left.length} of {g.total} checks still open: <b className="font-semibold">{named[0]}</b>
            {named.slice(1, 3).map((t) => `, ${t}`)}
            {named.length > 3 && " …"}
          </>
        )}
      </button>
      <Dialog open={open} close={() => setOpen(false)} title={`${g.name}: what it asks for`}>
        <Checks gate={g} />
      </Dialog>
    </Foot>
  );
}
