import type { Schemas } from "../app/client";

type Overload = Schemas["SpanOverload"];

const wide = 330;
const high = 170;
const left = 44;

/** When the motor's overload trips, over the current: cold and hot; and where the plan's start lies. */
export function OverloadPicture({ o }: { o: Overload }) {
  const lx = (m: number) => left + (Math.log(m) / Math.log(7.5)) * (wide - left - 10);
  const ly = (t: number) => 12 + (1 - Math.log(Math.min(Math.max(t, 1), 2000)) / Math.log(2000)) * (high - 34);
  const line = (of: "cold_s" | "hot_s") =>
    o.curve
      .filter((p) => p[of] != null && p[of]! >= 1)
      .map((p, i) => `${i ? "L" : "M"}${lx(p.multiple).toFixed(1)} ${ly(p[of]!).toFixed(1)}`)
      .join("");
  const start = o.start_for_s > 0 && o.start.multiple >= 1 ? o.start : undefined;
  return (
    <svg
      width={wide}
      height={high}
      role="img"
      aria-label={`Trip curve of class ${o.class}; the start at ${o.start.multiple.toFixed(2)} times for ${o.start_for_s.toFixed(1)} s`}
    >
      {[1, 10, 100, 1000].map((t) => (
        <g key={t}>
          <path d={`M${left} ${ly(t)}H${wide - 10}`} className="stroke-tin-2" />
          <text x={left - 4} y={ly(t) + 4} fontSize={10.5} textAnchor="end" className="n fill-ink-3">
            {t} s
          </text>
        </g>
      ))}
      {[1, 1.5, 2, 3, 5, 7.2].map((m) => (
        <text key={m} x={lx(m)} y={high - 8} fontSize={10.5} textAnchor="middle" className="n fill-ink-3">
          {m}
        </text>
      ))}
      <path d={line("cold_s")} fill="none" className="stroke-ink" strokeWidth={2} />
      <path d={line("hot_s")} fill="none" className="stroke-stop" strokeWidth={1.6} strokeDasharray="5 3" />
      {start && (
        <>
          <path
            d={`M${lx(start.multiple)} ${ly(o.start_for_s)}V${ly(start.cold_s ?? 2000)}`}
            className="stroke-plum"
            strokeDasharray="2 3"
          />
          <circle cx={lx(start.multiple)} cy={ly(o.start_for_s)} r={5} className="fill-plum" />
          <text x={lx(start.multiple) + 8} y={ly(o.start_for_s) + 4} fontSize={11} fontWeight={600} className="fill-plum">
            start
          </text>
        </>
      )}
    </svg>
  );
}
