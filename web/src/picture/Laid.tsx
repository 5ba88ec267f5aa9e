import type { Schemas } from "../app/client";

type Sample = Schemas["RideSample"];

/** One of the rides that are laid over one another. */
export type Over = { key: string; title: string; pen: Pen; samples: Sample[] };

export type Pen = "first" | "second" | "third";

const wide = 660;
const left = 46;
const right = 650;
const high = { speed: 100, other: 70 } as const;

/** How each is drawn: told apart by dash and weight, not by colour alone. */
const pens: Record<Pen, { stroke: string; dash?: string; width: number }> = {
  first: { stroke: "stroke-ink", width: 2.6 },
  second: { stroke: "stroke-plum", dash: "7 4", width: 2.2 },
  third: { stroke: "stroke-warn", dash: "2 3", width: 2.2 },
};

const lanesOf = {
  speed: { name: "r/min", of: (p: Sample) => Math.abs(p.speed) },
  current: { name: "A", of: (p: Sample) => p.current },
  torque: { name: "N·m", of: (p: Sample) => p.torque },
  link: { name: "link V", of: (p: Sample) => p.link },
} as const;

export type Lane = keyof typeof lanesOf;

type Scaled = { lane: Lane; name: string; y: (p: Sample) => number; head: number; foot: number; zero: number; low: number; most: number };

/** Each lane with its own scale; one that goes below nothing has its zero within. */
function scaled(all: Sample[], lanes: Lane[]): Scaled[] {
  let head = 12;
  return lanes.map((lane) => {
    const { name, of } = lanesOf[lane];
    const tall = lane === "speed" ? high.speed : high.other;
    const values = all.map(of);
    const most = Math.max(1, ...values, ...(lane === "speed" ? all.map((p) => Math.abs(p.asked)) : []));
    const low = lane === "link" ? Math.min(...values, most) * 0.95 : Math.min(0, ...values);
    const top = low + (most - low) * 1.07;
    const foot = head + tall;
    const at = head;
    head = foot + 14;
    const level = (v: number) => foot - ((Math.min(Math.max(v, low), top) - low) / Math.max(top - low, 1e-9)) * tall;
    return { lane, name, y: (p: Sample) => level(of(p)), head: at, foot, zero: level(0), low, most };
  });
}

/** Rides of one plan, laid over one another, a lane for each figure. */
export function LaidPicture({ of, lanes, label }: { of: Over[]; lanes: Lane[]; label: string }) {
  const shown = of.filter((t) => t.samples.length > 1);
  const all = shown.flatMap((t) => t.samples);
  const end = Math.max(1, ...all.map((p) => p.t));
  const scales = scaled(all, lanes);
  const foot = (scales[scales.length - 1]?.foot ?? 0) + 15;
  const x = (t: number) => left + (t / end) * (right - left);
  return (
    <figure className="border border-tin-3 bg-white">
      <svg viewBox={`0 0 ${wide} ${foot + 5}`} className="w-full" role="img" aria-label={label}>
        {scales.map((s) => (
          <g key={s.lane}>
            <path d={`M${left} ${s.zero.toFixed(1)}H${right}`} className="stroke-tin-3" />
            <text x={2} y={s.head + 10} fontSize={11} className="fill-ink-2">
              {s.name}
            </text>
            <text x={left - 4} y={s.head + 22} fontSize={11} textAnchor="end" className="n fill-ink-2">
              {s.most.toFixed(0)}
            </text>
            {Math.abs(s.low) >= 0.5 && (
              <text x={left - 4} y={s.foot} fontSize={11} textAnchor="end" className="n fill-ink-2">
                {s.low.toFixed(0)}
              </text>
            )}
            <g fill="none">
              {shown.map((t) => (
                <path
                  key={t.key}
                  data-laid={t.key}
                  data-lane={s.lane}
                  className={pens[t.pen].stroke}
                  strokeWidth={pens[t.pen].width}
                  strokeDasharray={pens[t.pen].dash}
                  d={`M${t.samples.map((p) => `${x(p.t).toFixed(1)} ${s.y(p).toFixed(1)}`).join("L")}`}
                />
              ))}
            </g>
          </g>
        ))}
        <text x={left} y={foot} fontSize={11} className="fill-ink-2">
          0 s
        </text>
        <text x={right} y={foot} fontSize={11} textAnchor="end" className="fill-ink-2">
          {end.toFixed(0)} s
        </text>
      </svg>
      <figcaption className="c flex flex-wrap gap-x-5 px-2 pb-1 text-[12.5px] text-ink-2">
        {shown.map((t) => (
          <span key={t.key} className="flex items-center gap-1.5">
            <PenMark pen={t.pen} />
            {t.title}
          </span>
        ))}
      </figcaption>
    </figure>
  );
}

/** A stroke of a pen, as a key to the picture. */
export function PenMark({ pen }: { pen: Pen }) {
  return (
    <svg width={30} height={8} aria-hidden="true" className="inline-block">
      <path d="M0 4H30" className={pens[pen].stroke} strokeWidth={pens[pen].width} strokeDasharray={pens[pen].dash} />
    </svg>
  );
}
