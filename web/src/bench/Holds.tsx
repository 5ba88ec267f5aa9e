import type { ReactNode } from "react";
import type { BenchView } from "./live";
import { blocks, warnings } from "./words";

/** What the drive holds: faults with their figures, warmth, what stands in the way of a run. */
export function Holds({ v }: { v: BenchView }) {
  const b = v.bench;
  const block = blocks[b.blocked];
  const warning = b.warning
    ? (warnings[b.warning] ?? ["see the display", "The drive warns of something; its display says of what."])
    : null;
  const last = b.trips[0];
  const row = (k: string, value: ReactNode) => (
    <div className="grid grid-cols-[1fr_auto] items-baseline gap-2 border-b border-dotted border-tin-3 py-1">
      <span className="text-ink-2">{k}</span>
      <span className="n text-[13px] font-semibold">{value}</span>
    </div>
  );
  if (!v.there) return null;
  return (
    <>
      <h2>What the drive holds</h2>
      <div>
        {row("Last fault", last ? `${last.code} ${last.text}` : "none")}
        {last && row("At that moment", `${last.hz.toFixed(1)} Hz · ${last.current.toFixed(1)} A · ${last.link.toFixed(0)} V`)}
        {b.trips[1] && row("Since the one before", `${(last!.at - b.trips[1].at).toFixed(0)} s`)}
        {row("Overload", `${b.warmth.toFixed(0)} %`)}
        {b.measured != null && row("Measured value", `${b.measured.toFixed(1)} %`)}
        {row("Winding", `${b.winding.toFixed(0)} °C`)}
        {row("Heat sink", `${b.sink.toFixed(0)} °C`)}
        {row("Shaft turned", `${b.turns.toFixed(2).replace(/^-0\.00$/, "0.00")} turns`)}
        {b.count !== 0 && row("Encoder", `${b.encoder.toFixed(0)} r/min · ${b.count.toFixed(0)}`)}
        {row("Torque off", b.torque_off.replaceAll("-", " "))}
      </div>
      <h2>Findings</h2>
      {b.damage && <Find mark="✕ stops" tone="border-stop" title="Something would be broken" text={b.damage} />}
      {b.fault && (
        <Find
          mark="✕ fault"
          tone="border-stop"
          title={`${b.fault_code} ${b.fault_text}`}
          text="Cause first, then run command off, reset, run command on."
        />
      )}
      {block && b.blocked !== "fault" && <Find mark="● do" tone="border-must" title={block[0]} text={block[1]} />}
      {b.limiting === "current" && (
        <Find
          mark="▲ look again"
          tone="border-warn-bar"
          title="The current limit holds the ramp"
          text="The rise takes longer than it is set to."
        />
      )}
      {b.limiting === "link" && (
        <Find
          mark="▲ look again"
          tone="border-warn-bar"
          title="The DC link holds the fall"
          text="The fall takes longer than it is set to: the load's energy has nowhere to go."
        />
      )}
      {warning && <Find mark="▲ look again" tone="border-warn-bar" title={`Warning: ${warning[0]}`} text={warning[1]} />}
      {b.broken.length > 0 && (
        <Find
          mark="– note"
          tone="border-tin-4"
          title="Broken on this bench"
          text={v.faults
            .filter((f) => b.broken.includes(f.key))
            .map((f) => f.text)
            .join(", ")}
        />
      )}
      {b.hidden > 0 && (
        <Find
          mark="– note"
          tone="border-tin-4"
          title="Something is broken, and not told"
          text="Find it by what the drive does; mend everything shows nothing either."
        />
      )}
      {!b.damage && !b.fault && !block && !b.limiting && !b.warning && b.broken.length === 0 && b.hidden === 0 && (
        <p className="text-ink-3">Nothing to say.</p>
      )}
    </>
  );
}

function Find({ mark, tone, title, text }: { mark: string; tone: string; title: string; text: string }) {
  return (
    <div className={`mb-2 border-l-[5px] bg-white px-3 py-2 ${tone}`}>
      <span className="c float-right border border-tin-3 px-1.5 text-[12px]">{mark}</span>
      <b className="text-[14px]">{title}</b>
      <p className="text-[13px] text-ink-2">{text}</p>
    </div>
  );
}
