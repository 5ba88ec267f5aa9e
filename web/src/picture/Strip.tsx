import { memo } from "react";
import type { Schemas } from "../app/client";

type Wiring = Schemas["WiringState"];

const step = 46;
const top = 96;

/** The terminal strip with what stands on it: the drive above, the field below, bars between joined terminals. */
export const Strip = memo(function Strip({ w }: { w: Wiring }) {
  const strip = w.circuit.parts.find((p) => p.id === "X1");
  if (!strip || strip.terminals.length === 0) return <p className="text-[13px] text-ink-3">Nothing goes over the strip.</p>;
  const x = (t: string) => 24 + strip.terminals.indexOf(t) * step;
  const name = (end: string) => end.replace(/^X1:/, "");
  const part = (end: string) => w.circuit.parts.find((p) => p.id === end.split(":")[0]);
  const wires = w.wires.filter((r) => r.from.startsWith("X1:") !== r.to.startsWith("X1:"));
  const state = (r: (typeof wires)[number]) => (r.measured === "holds" ? 4 : r.landed === "holds" ? 2.5 : 1.2);
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Picture of the terminal strip">
      <svg width={strip.terminals.length * step + 48} height={230} role="img" aria-label={`${strip.terminals.length} terminals; drive above, field below`}>
        {wires.map((r) => {
          const [here, far] = r.from.startsWith("X1:") ? [r.from, r.to] : [r.to, r.from];
          const up = far.startsWith("T1:");
          const at = x(name(here)) + 15;
          const bad = r.measured === "stops";
          return (
            <g key={r.id}>
              <path d={up ? `M${at} ${top}V52` : `M${at} ${top + 34}V176`} className={bad ? "stroke-stop" : r.screen ? "stroke-slate" : "stroke-ink"} strokeWidth={r.function === "torque-off" ? state(r) + 1.5 : state(r)} strokeDasharray={state(r) < 2 ? "4 3" : undefined} />
              {r.function === "torque-off" && <path d={up ? `M${at} ${top}V52` : `M${at} ${top + 34}V176`} className="stroke-white" strokeWidth={1.4} />}
              <text x={at + 4} y={up ? 82 : 148} fontSize={10.5} className="n fill-ink-3">
                {r.id}
              </text>
              <text x={at} y={up ? 44 : 190} fontSize={12} fontWeight={600} textAnchor={up ? "start" : "end"} transform={`rotate(-45 ${at} ${up ? 44 : 190})`} className="n fill-ink">
                {up ? far.slice(3) : far}
              </text>
              {!up && (part(far)?.contacts?.length ?? 0) > 0 && <circle cx={at} cy={176} r={3.5} className="fill-white stroke-ink" />}
            </g>
          );
        })}
        {strip.terminals.map((t) => (
          <g key={t}>
            <rect x={x(t)} y={top} width={30} height={34} className="fill-white stroke-ink" strokeWidth={1.5} />
            <text x={x(t) + 15} y={top + 22} textAnchor="middle" fontSize={13} fontWeight={600} className="n fill-ink">
              {t}
            </text>
          </g>
        ))}
        {(strip.bonds ?? []).map((b) => (
          <path key={b.a + b.b} d={`M${x(b.a) + 22} ${top + 4}H${x(b.b) + 8}`} className="stroke-plum" strokeWidth={5} />
        ))}
        <text x={4} y={14} fontSize={11} className="fill-ink-3">
          drive T1
        </text>
        <text x={4} y={226} fontSize={11} className="fill-ink-3">
          field · thin and dashed: not landed · thick: measured · double: safety
        </text>
      </svg>
    </div>
  );
});
