import { memo, useMemo } from "react";
import type { Schemas } from "../app/client";

type Bounds = Schemas["Bounds"];

const wide = 660;
const high = 200;
const left = 40;
const foot = 22;

/**
 * Torque over speed: what the load asks, what the motor bears for ever, what it gives for a moment; skip bands, and what bounds the two
 * speeds.
 */
export const SpeedPicture = memo(function SpeedPicture({ b }: { b: Bounds }) {
  const top = b.curve.at(-1)?.rpm || 1;
  const most = Math.min(3, Math.max(1.2, ...b.curve.map((c) => Math.max(c.asked, c.borne, Math.min(c.most, 2.2)))));
  const x = (rpm: number) => left + (rpm / top) * (wide - left - 12);
  const y = (share: number) => high - (Math.min(share, most) / most) * (high - 12);
  const line = (of: (c: Schemas["TorqueAt"]) => number) =>
    b.curve.map((c, i) => `${i ? "L" : "M"}${x(c.rpm).toFixed(1)} ${y(of(c)).toFixed(1)}`).join("");
  const ticks = useMemo(() => [0, 0.25, 0.5, 0.75, 1].map((k) => Math.round((top * k) / 50) * 50), [top]);
  const hot = b.curve.filter((c) => c.asked > c.borne + 1e-6);
  const marks = b.bounds.filter((m) => m.key !== "skip" && m.at.rpm <= top);
  return (
    <div className="overflow-x-auto border border-tin-3 bg-white" tabIndex={0} role="region" aria-label="Picture of the speeds">
      <svg
        width={wide}
        height={high + foot + 4}
        role="img"
        aria-label={marks.map((m) => `${m.text} ${Math.round(m.at.rpm)} r/min`).join("; ")}
      >
        <defs>
          <pattern id="hot" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(-45)">
            <path d="M0 0V6" className="stroke-warn-bar" strokeWidth={2} />
          </pattern>
        </defs>
        {[0.5, 1, 1.5, 2]
          .filter((k) => k < most)
          .map((k) => (
            <g key={k}>
              <path d={`M${left} ${y(k)}H${wide - 12}`} className="stroke-tin-2" />
              <text x={left - 4} y={y(k) + 4} fontSize={10.5} textAnchor="end" className="n fill-ink-3">
                {k * 100}
              </text>
            </g>
          ))}
        <text x={4} y={14} fontSize={10.5} className="fill-ink-3">
          % of rated torque
        </text>
        {b.skips
          .map((ends) => ends.map((e) => e.rpm))
          .map(([from = 0, to = 0]) => (
            <g key={from}>
              <rect x={x(from)} y={12} width={Math.max(2, x(to) - x(from))} height={high - 12} fill="url(#hot)" opacity={0.5} />
              <title>{`skipped: ${from} to ${to} r/min`}</title>
            </g>
          ))}
        {hot.length > 1 && (
          <path
            d={`${hot.map((c, i) => `${i ? "L" : "M"}${x(c.rpm)} ${y(c.asked)}`).join("")}${[...hot]
              .reverse()
              .map((c) => `L${x(c.rpm)} ${y(c.borne)}`)
              .join("")}Z`}
            className="fill-warn-0"
          />
        )}
        <path d={line((c) => c.most)} fill="none" className="stroke-warn-bar" strokeWidth={1.5} strokeDasharray="5 4" />
        <path d={line((c) => c.borne)} fill="none" className="stroke-good" strokeWidth={2} />
        <path d={line((c) => c.asked)} fill="none" className="stroke-ink" strokeWidth={2.4} />
        {marks.map((m, i) => (
          <g key={m.key}>
            <path
              d={`M${x(m.at.rpm)} 12V${high}`}
              className={m.side === "wish" ? "stroke-plum" : m.holds ? "stroke-tin-4" : "stroke-stop"}
              strokeWidth={m.side === "wish" ? 2 : 1.3}
              strokeDasharray={m.side === "wish" ? undefined : "3 3"}
            />
            <text
              x={x(m.at.rpm) + 3}
              y={22 + (i % 3) * 12}
              fontSize={10.5}
              fontWeight={600}
              className={m.side === "wish" ? "fill-plum" : m.holds ? "fill-ink-2" : "fill-stop"}
            >
              {short[m.key] ?? m.text}
            </text>
          </g>
        ))}
        <path d={`M${left} ${high}H${wide - 12}`} className="stroke-ink-3" />
        {ticks.map((t, i) => (
          <text
            key={t}
            x={x(t)}
            y={high + 15}
            fontSize={10.5}
            textAnchor={i === ticks.length - 1 ? "end" : "middle"}
            className="n fill-ink-3"
          >
            {t}
          </text>
        ))}
        <text x={wide - 12} y={high - 4} fontSize={10.5} textAnchor="end" className="fill-ink-3">
          r/min
        </text>
      </svg>
      <p className="px-3.5 pb-1.5 text-[12px] text-ink-3">
        <b className="text-ink">━ asked by the load</b> · <b className="text-good">━ borne for ever</b> ·{" "}
        <span className="text-warn">╌ given for a moment, within the current limit</span>
        {hot.length > 0 && " · shaded: more asked than borne"}
        {b.skips.length > 0 && " · hatched: skipped"}
      </p>
    </div>
  );
});

const short: Record<string, string> = {
  lowest: "lowest",
  highest: "highest",
  base: "plate",
  cooling: "cooled from here",
  rotor: "rotor",
  gear: "gear",
  torque: "out of torque",
};

const n = (v: number | null | undefined, digits = 1) => (v == null ? "–" : v.toFixed(Math.abs(v) >= 100 ? Math.min(digits, 0) : digits));

/** The same in every counting. */
export function SpeedTable({ b }: { b: Bounds }) {
  return (
    <div className="overflow-x-auto border border-t-0 border-tin-3">
      <table className="list w-full bg-white text-[13px]" aria-label="What bounds the speeds">
        <thead>
          <tr>
            <th>What bounds it</th>
            <th className="text-right">r/min</th>
            <th className="text-right">Hz, idle</th>
            <th className="text-right">Hz, loaded</th>
            <th className="text-right">%</th>
            {b.unit && <th className="text-right">{b.unit}</th>}
          </tr>
        </thead>
        <tbody>
          {b.bounds.map((m) => (
            <tr key={m.key + m.at.rpm} data-bound={m.key}>
              <td>
                <span
                  className={`mr-1.5 font-bold ${m.side === "wish" ? "text-plum" : m.holds ? "text-good" : "text-stop"}`}
                  aria-hidden="true"
                >
                  {m.side === "wish" ? "◆" : m.holds ? "✓" : "✕"}
                </span>
                <span className="sr-only">{m.side === "wish" ? "" : m.holds ? "kept: " : "not kept: "}</span>
                {m.side === "least" ? "≥ " : m.side === "most" ? "≤ " : ""}
                {m.text} <span className="text-[12px] text-ink-3">{m.why}</span>
              </td>
              <td className="n text-right font-semibold">{n(m.at.rpm, 0)}</td>
              <td className="n text-right">{n(m.at.hz)}</td>
              <td className="n text-right">{n(m.at.loaded_hz)}</td>
              <td className="n text-right">{n(m.at.percent)}</td>
              {b.unit && <td className="n text-right">{n(m.at.machine, 2)}</td>}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
