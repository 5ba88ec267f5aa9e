import { useRef, useState, type PointerEvent } from "react";
import type { Schemas } from "../app/client";

type Ride = Schemas["Ride"];

const wide = 660;
const left = 46;
const right = 640;
const lanes = { speed: [12, 118], current: [132, 186], torque: [198, 240], link: [252, 294], warm: [306, 330] } as const;

/**
 * A rise, a while at speed and a stop: asked thin, got thick; current, torque and DC link below. The two handles are the ends of rise and
 * fall.
 */
export function RidePicture({
  ride,
  top,
  set,
  tried,
  unit,
  over = [],
  fixed = false,
}: {
  ride: Ride;
  top: number;
  set: (which: "rise" | "fall", seconds: number, done: boolean) => void;
  tried: { rise: number; fall: number };
  unit: string;
  over?: Schemas["RideSample"][];
  fixed?: boolean;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<{ which: "rise" | "fall"; total: number } | null>(null);
  const s = ride.samples;
  const end = Math.max(s.at(-1)?.t ?? 1, over.at(-1)?.t ?? 0);
  const total = held?.total ?? Math.max(end, 1);
  const x = (t: number) => left + (Math.min(t, total) / total) * (right - left);
  const scale =
    ([y0, y1]: readonly [number, number], low: number, high: number) =>
    (v: number) =>
      y1 - ((Math.min(high, Math.max(low, v)) - low) / (high - low || 1)) * (y1 - y0);
  const speedTop = Math.max(top, ride.top, 1) * 1.06;
  const ySpeed = scale(lanes.speed, 0, speedTop);
  const iTop = Math.max(ride.current_limit_a, ride.peak_rise_a, ride.peak_fall_a, ...over.map((p) => p.current)) * 1.08;
  const yI = scale(lanes.current, 0, iTop);
  const tTop = Math.max(ride.peak_torque_nm, 1) * 1.1;
  const yT = scale(lanes.torque, -tTop, tTop);
  const yV = scale(
    lanes.link,
    Math.min(...s.map((p) => p.link), ride.trip_link_v * 0.6),
    Math.max(ride.trip_link_v * 1.02, ride.peak_link_v),
  );
  const yW = scale(lanes.warm, 0, 1);
  const path = (l: Schemas["RideSample"][]) => (of: (p: Schemas["RideSample"]) => number) =>
    l.length > 0 ? `M${l.map((p) => `${x(p.t).toFixed(1)} ${of(p).toFixed(1)}`).join("L")}` : "";
  const [line, laid] = [path(s), path(over)];
  const seconds = (e: PointerEvent) => {
    const box = svg.current!.getBoundingClientRect();
    return ((((e.clientX - box.left) / box.width) * wide - left) / (right - left)) * total;
  };
  const begin = ride.stop_at || total;
  const handleAt = { rise: tried.rise, fall: begin + tried.fall };
  const move = (e: PointerEvent, done: boolean) => {
    if (!held) return;
    const t = seconds(e) - (held.which === "fall" ? begin : 0);
    set(held.which, Math.max(0.1, Math.round(t * 10) / 10), done);
    if (done) setHeld(null);
  };
  const handle = (which: "rise" | "fall", y: number) => (
    <g
      role="slider"
      tabIndex={0}
      aria-label={which === "rise" ? "Rise, seconds" : "Fall, seconds"}
      aria-valuenow={tried[which]}
      aria-valuemin={0.1}
      aria-valuemax={600}
      className="cursor-ew-resize"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        setHeld({ which, total: total * 1.15 });
      }}
      onPointerMove={(e) => move(e, false)}
      onPointerUp={(e) => move(e, true)}
      onKeyDown={(e) => {
        const step = e.shiftKey ? 1 : 0.1;
        if (e.key === "ArrowRight") set(which, Math.round((tried[which] + step) * 10) / 10, true);
        else if (e.key === "ArrowLeft") set(which, Math.max(0.1, Math.round((tried[which] - step) * 10) / 10), true);
        else return;
        e.preventDefault();
      }}
    >
      <circle cx={x(handleAt[which])} cy={y} r={14} className="fill-transparent" />
      <path
        d={`M${x(handleAt[which])} ${y - 9}v18M${x(handleAt[which]) - 6} ${y - 5}v10M${x(handleAt[which]) + 6} ${y - 5}v10`}
        className="stroke-plum"
        strokeWidth={2.5}
      />
    </g>
  );
  const lane = (key: keyof typeof lanes, name: string) => (
    <>
      <path d={`M${left} ${lanes[key][1]}H${right}`} className="stroke-tin-2" />
      <text x={2} y={(lanes[key][0] + lanes[key][1]) / 2 + 4} fontSize={11} className="fill-ink-2">
        {name}
      </text>
    </>
  );
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${wide} 352`}
      className="w-full border border-tin-3 bg-white select-none"
      role="group"
      aria-label={`Rise ${text(ride.rise_s)}, fall ${text(ride.fall_s)}${ride.trip ? `; ${ride.trip.stalls ? "stalls" : "trips"} in the ${ride.trip.while}` : ""}`}
    >
      {lane("speed", "r/min")}
      {lane("current", "A")}
      {lane("torque", "N·m")}
      {lane("link", "link V")}
      {lane("warm", "warm %")}
      <path d={`M${left} ${yI(ride.current_limit_a)}H${right}`} className="stroke-warn-bar" strokeDasharray="5 4" />
      <text x={right - 2} y={yI(ride.current_limit_a) - 3} fontSize={10.5} textAnchor="end" className="fill-warn">
        limit {ride.current_limit_a.toFixed(1)} A
      </text>
      <path d={`M${left} ${yV(ride.trip_link_v)}H${right}`} className="stroke-stop" strokeDasharray="5 4" />
      <text x={right - 2} y={yV(ride.trip_link_v) - 3} fontSize={10.5} textAnchor="end" className="fill-stop">
        trips at {ride.trip_link_v.toFixed(0)} V
      </text>
      <g fill="none">
        <path d={line((p) => ySpeed(Math.abs(p.asked)))} className="stroke-ink-3" strokeWidth={1.2} strokeDasharray="6 3" />
        <path d={line((p) => ySpeed(Math.abs(p.speed)))} className="stroke-ink" strokeWidth={2.6} />
        {over.length > 1 && (
          <path d={laid((p) => ySpeed(Math.abs(p.speed)))} className="stroke-plum" strokeWidth={2} strokeDasharray="2 3" />
        )}
        {over.some((p) => p.current > 0) && (
          <path d={laid((p) => yI(p.current))} className="stroke-plum" strokeWidth={1.5} strokeDasharray="2 3" />
        )}
        {over.some((p) => p.torque !== 0) && (
          <path d={laid((p) => yT(p.torque))} className="stroke-plum" strokeWidth={1.5} strokeDasharray="2 3" />
        )}
        {over.some((p) => p.link > 0) && (
          <path d={laid((p) => yV(p.link))} className="stroke-plum" strokeWidth={1.5} strokeDasharray="2 3" />
        )}
        <path d={line((p) => yI(p.current))} className="stroke-ink" strokeWidth={1.8} />
        <path d={`M${left} ${yT(0)}H${right}`} className="stroke-tin-2" />
        <path d={line((p) => yT(p.torque))} className="stroke-ink" strokeWidth={1.8} />
        <path d={line((p) => yV(p.link))} className="stroke-ink" strokeWidth={1.8} />
        <path d={line((p) => yW(p.warmth))} className="stroke-ink" strokeWidth={1.8} />
      </g>
      <text x={left - 4} y={ySpeed(ride.top) + 4} fontSize={11} textAnchor="end" className="n fill-ink-2">
        {ride.top.toFixed(0)}
      </text>
      {ride.trip && (
        <g>
          <path d={`M${x(ride.trip.t)} 8V334`} className="stroke-stop" strokeWidth={1.5} />
          <text x={Math.min(x(ride.trip.t) + 5, right - 150)} y={26} fontSize={12.5} fontWeight={600} className="fill-stop">
            ✕ {ride.trip.word || ride.trip.code} at {ride.trip.t.toFixed(1)} s
          </text>
        </g>
      )}
      {!fixed && handle("rise", ySpeed(top))}
      {!fixed && handle("fall", lanes.speed[1])}
      {[0, 0.25, 0.5, 0.75, 1].map((f) => (
        <text
          key={f}
          x={x(f * total)}
          y={347}
          fontSize={10.5}
          textAnchor={f === 1 ? "end" : f === 0 ? "start" : "middle"}
          className="n fill-ink-3"
        >
          {(f * total).toFixed(total < 20 ? 1 : 0)} s
        </text>
      ))}
      <title>{unit}</title>
    </svg>
  );
}

const text = (v: number | null | undefined) => (v == null ? "never ends" : `${v.toFixed(1)} s`);
