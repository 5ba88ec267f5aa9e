import type { ReactNode } from "react";
import type { BenchView } from "./live";
import { blocks, limits, warnings } from "./words";

/** What the drive holds: faults with their figures, warmth, what stands in the way of a run. */
export function Holds({ v }: { v: BenchView }) {
  const b = v.bench;
  const block = blocks[b.blocked];
  const warning = b.warning
    ? (warnings[b.warning] ?? ["see the display", "The drive warns of something; its display says of what."])
    : null;
  const limit = limits[b.limiting];
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
        {b.earth > 0.05 && row("To earth, round all three leads", `${b.earth.toFixed(1)} A`)}
        {row("Ripple of the link", `${b.ripple.toFixed(0)} V`)}
        {row("Current of its capacitors", `${b.caps.toFixed(1)} A`)}
        {b.resistor != null && row("Braking resistor", `${b.resistor.toFixed(0)} °C`)}
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
      {b.phase === "searching" && (
        <Find
          mark="– note"
          tone="border-tin-4"
          title="It looks for a shaft that turns"
          text="A weak field goes down from the highest frequency, then the other way round; where the shaft is found, the run goes on."
        />
      )}
      {limit && <Find mark="▲ look again" tone="border-warn-bar" title={limit[0]} text={limit[1]} />}
      {warning && <Find mark="▲ look again" tone="border-warn-bar" title={`Warning: ${warning[0]}`} text={warning[1]} />}
      {v.faults
        .filter((f) => b.broken.includes(f.key))
        .map((f) => (
          <Find key={f.key} mark="– note" tone="border-tin-4" title={`Broken on this bench: ${f.text}`} text={sentence(f.reads)}>
            {f.shows && (
              <p className="text-[13px] text-ink-2">
                The drive, if it sees it: <b className="font-semibold">{f.shows}</b>
              </p>
            )}
            <p className="text-[13px] text-ink-2">What mends it: {f.mends}.</p>
          </Find>
        ))}
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

const sentence = (s: string) => `${s.charAt(0).toUpperCase()}${s.slice(1)}.`;

function Find({ mark, tone, title, text, children }: { mark: string; tone: string; title: string; text: string; children?: ReactNode }) {
  return (
    <div className={`mb-2 border-l-[5px] bg-white px-3 py-2 ${tone}`}>
      <span className="c float-right border border-tin-3 px-1.5 text-[12px]">{mark}</span>
      <b className="text-[14px]">{title}</b>
      <p className="text-[13px] text-ink-2">{text}</p>
      {children}
    </div>
  );
}
