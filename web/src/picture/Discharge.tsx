import type { Schemas } from "../app/client";

/** How the DC link falls: readings, the fitted curve, the limit, and the band in which it will be reached. Never a permission. */
export function Discharge({ state: d }: { state: Schemas["DischargeState"] }) {
  const list = d.readings;
  if (list.length === 0)
    return <p className="text-[13px] text-ink-3">Each reading of DC+ to DC− stands here over time, before the wait is over, too.</p>;
  const tau = d.time_constant_s ?? 0;
  const last = list[list.length - 1]!.t_s;
  const end = Math.max(last * 1.15, d.high_s ?? 0, (d.to_limit_s ?? 0) * 1.05, 30);
  const top = Math.max(...list.map((r) => r.v), d.start_v ?? 0, d.limit_v * 1.5) * 1.05;
  const x = (t: number) => 36 + (t / end) * 264;
  const y = (v: number) => 132 - (v / top) * 118;
  const curve =
    tau > 0 && d.start_v
      ? Array.from({ length: 41 }, (_, i) => (end * i) / 40).map(
          (t) => `${t === 0 ? "M" : "L"}${x(t).toFixed(1)} ${y(d.start_v! * Math.exp(-t / tau)).toFixed(1)}`,
        )
      : [];
  const minutes = (s: number) => (s < 90 ? `${Math.round(s)} s` : `${(s / 60).toFixed(1)} min`);
  return (
    <figure>
      <svg
        viewBox="0 0 312 152"
        className="w-full border border-tin-3 bg-white"
        role="img"
        aria-label={`${list.length} readings of the DC link, last ${Math.round(list[list.length - 1]!.v)} V, limit ${d.limit_v} V`}
      >
        {d.low_s !== undefined && d.high_s !== undefined && d.high_s > 0 && (
          <rect x={x(d.low_s)} y={14} width={Math.max(1, x(d.high_s) - x(d.low_s))} height={118} className="fill-tin-2" />
        )}
        <path d={`M36 14V132H304`} className="fill-none stroke-tin-4" />
        <path d={`M36 ${y(d.limit_v)}H304`} className="stroke-stop" strokeWidth={1.3} strokeDasharray="5 4" />
        {curve.length > 0 && <path d={curve.join("")} className="fill-none stroke-plum" strokeWidth={1.8} />}
        {list.map((r) => (
          <circle key={r.at} cx={x(r.t_s)} cy={y(r.v)} r={3.2} className="fill-ink" />
        ))}
        <g className="n fill-ink-2" fontSize={9.5}>
          <text x={2} y={y(d.limit_v) + 3}>
            {d.limit_v} V
          </text>
          <text x={2} y={22}>
            {Math.round(top)} V
          </text>
          <text x={36} y={145}>
            0
          </text>
          <text x={304} y={145} textAnchor="end">
            {minutes(end)}
          </text>
        </g>
      </svg>
      <figcaption className="mt-1 text-[13px] text-ink-2">
        {d.to_limit_s !== undefined && d.to_limit_s > 0 ? (
          <>
            Below {d.limit_v} V after about <b className="n">{minutes(d.to_limit_s)}</b>
            {d.low_s !== undefined && d.high_s !== undefined && ` (${minutes(d.low_s)} to ${minutes(d.high_s)})`}, counted from the last
            lock. A curve permits nothing: measure.
          </>
        ) : d.to_limit_s === 0 ? (
          `The last reading lies below ${d.limit_v} V.`
        ) : (
          "No time can be given."
        )}
      </figcaption>
    </figure>
  );
}
