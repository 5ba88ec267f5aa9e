import { memo } from "react";
import type { Schemas } from "../app/client";

type Scaling = Schemas["Scaling"];

const wide = 660;
const high = 210;
const left = 52;

/** Speed over the signal: the wanted line with its limits, what was measured, where the signal counts as lost. */
export const ScalingPicture = memo(function ScalingPicture({ s }: { s: Scaling }) {
  const all = [...s.line.map((p) => p.rpm), ...s.measured.map((m) => m.rpm)];
  const top = Math.max(10, ...all) * 1.06;
  const full = s.unit === "mA" ? 22 : Math.max(s.high, ...s.measured.map((m) => m.signal)) * 1.04;
  const x = (v: number) => left + (v / full) * (wide - left - 14);
  const y = (v: number) => high - (v / top) * (high - 14);
  const step = s.unit === "mA" ? 4 : 2;
  return (
    <div className="overflow-x-auto border border-tin-3 bg-white" tabIndex={0} role="region" aria-label="Picture of the scaling">
      <svg width={wide} height={high + 26} role="img" aria-label={s.two_point}>
        <defs>
          <pattern id="lost" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
            <path d="M0 0V6" className="stroke-stop" strokeWidth={1.4} />
          </pattern>
        </defs>
        {s.unit === "mA" && (
          <>
            <rect x={x(0)} y={14} width={x(3.6) - x(0)} height={high - 14} fill="url(#lost)" opacity={0.35} />
            <rect x={x(21)} y={14} width={x(22) - x(21)} height={high - 14} fill="url(#lost)" opacity={0.35} />
            <text x={x(0) + 4} y={26} fontSize={10.5} className="fill-stop">
              lost, to 3.6
            </text>
          </>
        )}
        {[0.25, 0.5, 0.75, 1].map((k) => (
          <g key={k}>
            <path d={`M${left} ${y((top / 1.06) * k)}H${wide - 14}`} className="stroke-tin-2" />
            <text x={left - 5} y={y((top / 1.06) * k) + 4} fontSize={10.5} textAnchor="end" className="n fill-ink-3">
              {Math.round((top / 1.06) * k)}
            </text>
          </g>
        ))}
        {Array.from({ length: Math.floor(full / step) + 1 }, (_, i) => i * step).map((v) => (
          <g key={v}>
            <path d={`M${x(v)} ${high}v4`} className="stroke-ink-3" />
            <text x={x(v)} y={high + 15} fontSize={10.5} textAnchor="middle" className="n fill-ink-3">
              {v}
            </text>
          </g>
        ))}
        <text x={wide - 14} y={high - 5} fontSize={10.5} textAnchor="end" className="fill-ink-3">
          {s.unit} at the drive
        </text>
        <text x={4} y={11} fontSize={10.5} className="fill-ink-3">
          r/min
        </text>
        <path d={`M${left} ${high}H${wide - 14}`} className="stroke-ink-3" />
        <path
          d={s.line.map((p, i) => `${i ? "L" : "M"}${x(p.signal).toFixed(1)} ${y(p.rpm).toFixed(1)}`).join("")}
          fill="none"
          className="stroke-ink"
          strokeWidth={2.4}
        />
        {s.points.map((p) => (
          <circle key={p.percent} cx={x(p.signal)} cy={y(p.rpm)} r={4} className={p.held ? "fill-warn-bar" : "fill-plum"}>
            <title>{`${p.signal.toFixed(2)} ${s.unit}: ${p.rpm.toFixed(0)} r/min${p.held ? ", held by a limit" : ""}`}</title>
          </circle>
        ))}
        {s.measured.map((m, i) => (
          <g key={i} className={m.fits ? "stroke-good" : "stroke-stop"} strokeWidth={1.8}>
            {m.spread_rpm != null && (
              <path d={`M${x(m.signal)} ${y(m.rpm + m.spread_rpm / 2)}V${y(m.rpm - m.spread_rpm / 2)}`} strokeWidth={4} opacity={0.45} />
            )}
            <path d={`M${x(m.signal) - 6} ${y(m.rpm) - 6}l12 12m0 -12l-12 12`} fill="none" />
            <title>{`measured ${m.signal} ${s.unit}: ${m.rpm} r/min, wanted ${m.want_rpm.toFixed(0)}`}</title>
          </g>
        ))}
      </svg>
      <p className="px-3.5 pb-1.5 text-[12px] text-ink-3">
        <b className="text-ink">━ as planned</b> · <b className="text-plum">● test points</b> · <b className="text-warn">●</b> held by a
        limit or the dead band · <b className="text-good">✕</b> measured, <b className="text-stop">✕</b> measured and off
      </p>
    </div>
  );
});

const n = (v: number | null | undefined, digits: number) => (v == null ? "" : v.toFixed(digits));

/** What is to be read at each place of the chain. */
export function ScalingTable({ s }: { s: Scaling }) {
  const counts = s.points.some((p) => p.counts != null);
  const asks = s.points.some((p) => p.asks != null);
  const machine = s.points.some((p) => p.machine != null);
  return (
    <div className="overflow-x-auto border border-t-0 border-tin-3">
      <table className="list w-full bg-white text-[13px]" aria-label="Test points">
        <thead>
          <tr>
            {asks && <th className="text-right">Controller asks{s.asked && `, ${s.asked}`}</th>}
            {counts && <th className="text-right">Its counts</th>}
            <th className="text-right">At the drive, {s.unit}</th>
            <th className="text-right">%</th>
            <th className="text-right">Hz, idle</th>
            <th className="text-right">r/min</th>
            {machine && <th className="text-right">{s.machine}</th>}
          </tr>
        </thead>
        <tbody>
          {s.points.map((p) => (
            <tr key={p.percent}>
              {asks && <td className="n text-right">{n(p.asks, 2)}</td>}
              {counts && <td className="n text-right">{n(p.counts, 0)}</td>}
              <td className="n text-right font-semibold">{p.signal.toFixed(2)}</td>
              <td className="n text-right">{p.percent.toFixed(0)}</td>
              <td className="n text-right">{p.hz.toFixed(1)}</td>
              <td className={`n text-right font-semibold ${p.held ? "text-warn" : ""}`}>{p.rpm.toFixed(0)}</td>
              {machine && <td className="n text-right">{n(p.machine, 2)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
