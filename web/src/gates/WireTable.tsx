import { memo, type KeyboardEvent } from "react";
import type { Schemas } from "../app/client";
import { useActs } from "../app/drive";
import { goOn } from "../app/enter";
import { useWith } from "../app/Instruments";
import { useTyped } from "../app/outbox";
import { Reason } from "../ui/Reason";

type Wire = Schemas["WireState"];

const signs: Record<string, string> = { holds: "✓", "look-again": "▲", stops: "✕", "not-done": "○", waived: "⊘" };

/** Every wire by its two ends: ticked when landed at both, then measured from end to end. Enter goes to the next. */
export const WireTable = memo(function WireTable({ wires }: { wires: Wire[] }) {
  return (
    <section className="longlist mb-3.5 overflow-x-auto border border-tin-3 bg-tin-0" aria-label="Wires">
      <h3 className="border-b border-tin-2 px-3.5 py-1.5 text-[14px]">
        Wires{" "}
        <span className="c text-[12.5px] font-normal text-ink-3">
          dead work. Read the strip's name with the number: the right number of the wrong strip is the classic mistake.
        </span>
      </h3>
      <table className="list wires w-full" role="table">
        <thead role="rowgroup">
          <tr role="row">
            {["Wire", "From", "To", "Why", "Landed, both ends", "End to end, Ω"].map((t) => (
              <th key={t} role="columnheader" className={t.endsWith("Ω") ? "text-right" : ""}>
                {t}
              </th>
            ))}
          </tr>
        </thead>
        <tbody role="rowgroup">
          {wires.map((x) => (
            <Row key={x.id} wire={x} />
          ))}
        </tbody>
      </table>
    </section>
  );
});

/** Drawn anew only when its wire has changed. */
const Row = memo(function Row({ wire: x }: { wire: Wire }) {
  const { answer: send, decide } = useActs();
  const meter = useWith("meter");
  const answer = (key: string, value: string) => send(key, value, { with: meter, seen: { from: x.from, to: x.to } });
  const done = (x.landed === "holds" || x.landed === "waived") && (x.measured === "holds" || x.measured === "waived");
  return (
    <tr role="row" data-wire={x.id} className={x.rail ? "bg-white" : ""}>
      <td role="cell" className="n font-semibold">
        {x.id}
      </td>
      <td role="cell" className="n whitespace-nowrap">
        {x.from}
      </td>
      <td role="cell" className="n whitespace-nowrap">
        {x.to}
      </td>
      <td role="cell" className="text-[12.5px] leading-snug text-ink-2">
        {x.function === "torque-off" && <b className="mr-1 border border-ink px-1 text-[11px] text-ink">safety</b>}
        {x.why}{" "}
        <span className="text-ink-3">
          {[x.colour, x.area, x.screen && `screen ${x.screen}`, x.own && "own"].filter(Boolean).join(", ")}
        </span>
      </td>
      <td role="cell" className="whitespace-nowrap">
        {x.landed === "holds" ? (
          <span className="font-bold text-good">
            ✓ <span className="sr-only">landed</span>
          </span>
        ) : (
          <span className="flex flex-wrap items-center gap-x-2 gap-y-1">
            <button
              data-answer
              className="ghost !px-2 !py-0.5 text-[13px]"
              aria-label={`Landed at both ends: wire ${x.id}`}
              onClick={() => void answer(`control/landed/${x.id}`, "confirmed")}
            >
              {signs[x.landed]} both
            </button>
            {x.landed !== "waived" && (
              <Reason
                ask="later…"
                label={`Why wire ${x.id} comes later`}
                does="Put off"
                placeholder="why"
                send={(reason) => decide("waive", `control/landed/${x.id}`, reason)}
              />
            )}
          </span>
        )}
      </td>
      <td role="cell" className="text-right whitespace-nowrap">
        <span className="flex flex-wrap items-center justify-end gap-1.5">
          {!done && x.landed === "waived" && x.measured !== "waived" && (
            <Reason
              ask="later…"
              label={`Why wire ${x.id} is measured later`}
              does="Put off"
              placeholder="why"
              send={(reason) => decide("waive", `control/wire/${x.id}`, reason)}
            />
          )}
          <Ohms wire={x} send={(v) => answer(`control/wire/${x.id}`, v)} />
          <span
            className={`w-4 text-center font-bold ${x.measured === "holds" ? "text-good" : x.measured === "stops" ? "text-stop" : x.measured === "look-again" ? "text-warn" : "text-ink-3"}`}
          >
            {signs[x.measured]}
            <span className="sr-only">{x.measured.replaceAll("-", " ")}</span>
          </span>
        </span>
      </td>
    </tr>
  );
});

/** What the meter shows; a lamp or a beep is an answer too. Kept here until the server has it. */
function Ohms({ wire: x, send }: { wire: Wire; send: (v: string) => Promise<boolean> }) {
  const { id } = useActs();
  const { typed, type, sent } = useTyped(id, `measure.wire.${x.id}`);
  const press = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key !== "Enter" || e.shiftKey || e.ctrlKey) return;
    if (typed?.trim()) void send(typed).then((done) => done && sent(typed));
    if (goOn(e.currentTarget, "[data-ohms]")) e.preventDefault();
  };
  return (
    <input
      data-ohms={x.id}
      className={`cell !h-[28px] !w-20 text-right !text-[14px] ${x.measured === "stops" ? "bad" : ""}`}
      aria-label={`Wire ${x.id}, ${x.from} to ${x.to}, Ω`}
      disabled={!x.ready && !x.value}
      placeholder={x.ready ? "Ω or lamp" : ""}
      autoComplete="off"
      value={typed ?? x.value ?? ""}
      onChange={(e) => type(e.target.value)}
      onFocus={(e) => e.currentTarget.select()}
      onKeyDown={press}
    />
  );
}
