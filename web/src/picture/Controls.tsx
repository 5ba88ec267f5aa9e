import type { Schemas } from "../app/client";

type Tried = Schemas["ControlTried"];

const wide = 660;
const left = 46;
const right = 650;
const lanes = { speed: [12, 112], current: [126, 196] } as const;

/** How a way of control is drawn: told apart by dash and weight, not by colour alone. */
const pens: Record<string, { stroke: string; dash?: string; width: number }> = {
  "volts-per-hertz": { stroke: "stroke-ink", width: 2.6 },
  vector: { stroke: "stroke-plum", dash: "7 4", width: 2.2 },
  encoder: { stroke: "stroke-warn", dash: "2 3", width: 2.2 },
};

/** The same plan by each way of control, laid over one another: speed, and current below. */
export function ControlsPicture({ tried }: { tried: Tried[] }) {
  const shown = tried.filter((t) => t.does.ride.samples.length > 1);
  const all = shown.flatMap((t) => t.does.ride.samples);
  const end = Math.max(1, ...all.map((p) => p.t));
  const top = Math.max(1, ...all.map((p) => Math.max(Math.abs(p.speed), Math.abs(p.asked)))) * 1.06;
  const most = Math.max(1, ...all.map((p) => p.current)) * 1.08;
  const x = (t: number) => left + (t / end) * (right - left);
  const y = ([a, b]: readonly [number, number], v: number, high: number) => b - (Math.min(Math.max(v, 0), high) / high) * (b - a);
  const path = (l: Schemas["RideSample"][], of: (p: Schemas["RideSample"]) => number) =>
    `M${l.map((p) => `${x(p.t).toFixed(1)} ${of(p).toFixed(1)}`).join("L")}`;
  return (
    <figure className="border border-tin-3 bg-white">
      <svg
        viewBox={`0 0 ${wide} 216`}
        className="w-full"
        role="img"
        aria-label={`The plan by ${shown.map((t) => t.title.toLowerCase()).join(", ")}`}
      >
        {(
          [
            ["speed", "r/min", top],
            ["current", "A", most],
          ] as const
        ).map(([lane, name, high]) => (
          <g key={lane}>
            <path d={`M${left} ${lanes[lane][1]}H${right}`} className="stroke-tin-3" />
            <text x={2} y={lanes[lane][0] + 10} fontSize={11} className="fill-ink-2">
              {name}
            </text>
            <text x={left - 4} y={y(lanes[lane], high / 1.08, high) + 14} fontSize={11} textAnchor="end" className="n fill-ink-2">
              {(high / 1.08).toFixed(0)}
            </text>
          </g>
        ))}
        <g fill="none">
          {shown.map((t) => {
            const pen = pens[t.control] ?? pens["vector"]!;
            return (
              <g key={t.control} data-laid={t.control} className={pen.stroke} strokeWidth={pen.width} strokeDasharray={pen.dash}>
                <path d={path(t.does.ride.samples, (p) => y(lanes.speed, Math.abs(p.speed), top))} />
                <path d={path(t.does.ride.samples, (p) => y(lanes.current, p.current, most))} />
              </g>
            );
          })}
        </g>
        <text x={left} y={211} fontSize={11} className="fill-ink-2">
          0 s
        </text>
        <text x={right} y={211} fontSize={11} textAnchor="end" className="fill-ink-2">
          {end.toFixed(0)} s
        </text>
      </svg>
      <figcaption className="c flex flex-wrap gap-x-5 px-2 pb-1 text-[12.5px] text-ink-2">
        {shown.map((t) => {
          const pen = pens[t.control] ?? pens["vector"]!;
          return (
            <span key={t.control} className="flex items-center gap-1.5">
              <svg width={30} height={8} aria-hidden="true">
                <path d="M0 4H30" className={pen.stroke} strokeWidth={pen.width} strokeDasharray={pen.dash} />
              </svg>
              {t.title}
            </span>
          );
        })}
      </figcaption>
    </figure>
  );
}
