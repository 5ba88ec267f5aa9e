import type { Schemas } from "../app/client";

type Result = Schemas["TuneResult"];

const digits = (v: number) => (v === 0 ? "0" : Number(v.toPrecision(3)).toString());

/** Each quantity that a tune found, against the band of sound motors of this plate. Logarithmic, so that a factor looks alike. */
export function TuneBands({ results }: { results: Result[] }) {
  return (
    <div className="flex flex-col gap-2.5">
      {results.map((r) => (
        <Band key={r.key} r={r} />
      ))}
    </div>
  );
}

function Band({ r }: { r: Result }) {
  const values = [r.value, r.earlier].filter((v): v is number => v != null && v > 0);
  const low = Math.min(r.low, ...values) / 1.4;
  const high = Math.max(r.high, ...values) * 1.4;
  const x = (v: number) => 6 + (Math.log(v / low) / Math.log(high / low)) * 300;
  const inside = r.value != null && r.value >= r.low && r.value <= r.high;
  return (
    <figure>
      <figcaption className="grid grid-cols-[1fr_auto] text-[13px]">
        <span className="text-ink-2">
          {r.name} <b className="n font-semibold text-ink">{r.setting}</b>
        </span>
        <span className={`n font-semibold ${r.value == null ? "text-ink-3" : inside ? "" : "text-warn"}`}>
          {r.value == null ? "not read" : `${inside ? "" : "▲ "}${digits(r.value)} ${r.unit}`}
        </span>
      </figcaption>
      <svg
        viewBox="0 0 312 30"
        className="w-full"
        role="img"
        aria-label={`${r.name}: band ${digits(r.low)} to ${digits(r.high)} ${r.unit}, usual ${digits(r.usual)}${r.value == null ? "" : `, read ${digits(r.value)}`}`}
      >
        <path d="M6 9H306" className="stroke-tin-3" />
        <rect x={x(r.low)} y={3} width={x(r.high) - x(r.low)} height={12} className="fill-tin-2 stroke-tin-4" />
        <path d={`M${x(r.usual)} 3V15`} className="stroke-tin-4" strokeWidth={1.5} />
        {r.earlier != null && r.earlier > 0 && (
          <circle cx={x(r.earlier)} cy={9} r={4} className="fill-white stroke-ink-3" strokeWidth={1.5} />
        )}
        {r.value != null && r.value > 0 && (
          <path d={`M${x(r.value)} 0l5 6v6l-5 6l-5-6v-6z`} className={inside ? "fill-plum" : "fill-warn-bar stroke-warn"} />
        )}
        <g className="n fill-ink-3" fontSize={9.5}>
          <text x={x(r.low)} y={27} textAnchor="middle">
            {digits(r.low)}
          </text>
          <text x={x(r.usual)} y={27} textAnchor="middle">
            {digits(r.usual)}
          </text>
          <text x={x(r.high)} y={27} textAnchor="middle">
            {digits(r.high)}
          </text>
        </g>
      </svg>
    </figure>
  );
}
