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
  // The picture grows by a dozen terminals at a time: another width has every text in it laid out anew.
  const wide = Math.ceil(strip.terminals.length / 12) * 12 * step + 48;
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Picture of the terminal strip">
      <svg width={wide} height={230} role="img" aria-label={`${strip.terminals.length} terminals; drive above, field below`}>
        {wires.map((r) => {
          const [here, far] = r.from.startsWith("X1:") ? [r.from, r.to] : [r.to, r.from];
          const up = far.startsWith("T1:");
          return (
            <End
              key={r.id}
              at={x(name(here)) + 15}
              id={r.id}
              up={up}
              far={up ? far.slice(3) : far}
              moves={!up && (part(far)?.contacts?.length ?? 0) > 0}
              thick={state(r)}
              bad={r.measured === "stops"}
              screened={!!r.screen}
              safety={r.function === "torque-off"}
            />
          );
        })}
        {strip.terminals.map((t) => (
          <Terminal key={t} at={x(t)} name={t} />
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

type EndOf = {
  at: number;
  id: string;
  up: boolean;
  far: string;
  moves: boolean;
  thick: number;
  bad: boolean;
  screened: boolean;
  safety: boolean;
};

/** A wire as it leaves the strip. Where it stands is a shift: a strip that grows moves what is drawn already. */
const End = memo(function End({ at, id, up, far, moves, thick, bad, screened, safety }: EndOf) {
  const line = up ? `M0 ${top}V52` : `M0 ${top + 34}V176`;
  const y = up ? 44 : 190;
  return (
    <g transform={`translate(${at})`}>
      <path
        d={line}
        className={bad ? "stroke-stop" : screened ? "stroke-slate" : "stroke-ink"}
        strokeWidth={safety ? thick + 1.5 : thick}
        strokeDasharray={thick < 2 ? "4 3" : undefined}
      />
      {safety && <path d={line} className="stroke-white" strokeWidth={1.4} />}
      <text x={4} y={up ? 82 : 148} fontSize={10.5} className="n fill-ink-3">
        {id}
      </text>
      <text y={y} fontSize={12} fontWeight={600} textAnchor={up ? "start" : "end"} transform={`rotate(-45 0 ${y})`} className="n fill-ink">
        {far}
      </text>
      {moves && <circle cy={176} r={3.5} className="fill-white stroke-ink" />}
    </g>
  );
});

const Terminal = memo(function Terminal({ at, name }: { at: number; name: string }) {
  return (
    <g transform={`translate(${at})`}>
      <rect y={top} width={30} height={34} className="fill-white stroke-ink" strokeWidth={1.5} />
      <text x={15} y={top + 22} textAnchor="middle" fontSize={13} fontWeight={600} className="n fill-ink">
        {name}
      </text>
    </g>
  );
});
