import { useEffect, useRef, type MutableRefObject } from "react";
import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";
import type { Sample } from "./live";

const ink = "#17201d";
const plum = "#5b2a5e";
const slate = "#46504b";

/** The columns that are drawn, with their dash: traces are told apart by more than colour. */
const traces: { key: keyof Sample; label: string; unit: string; scale: string; stroke: string; width: number; dash?: number[] }[] = [
  { key: "speed", label: "speed", unit: "r/min", scale: "rpm", stroke: ink, width: 2.6 },
  { key: "current", label: "current", unit: "A", scale: "a", stroke: plum, width: 2 },
  { key: "torque", label: "torque", unit: "N·m", scale: "nm", stroke: slate, width: 1.6, dash: [8, 4] },
  { key: "link", label: "DC link", unit: "V", scale: "v", stroke: slate, width: 1.6, dash: [2, 4] },
];

type Props = { samples: MutableRefObject<Sample[]>; seconds: number; held: number | null; live: boolean };

/** Speed, current, torque and DC link over time: 20 frames a second while it is live, still while it is held. */
export function LiveChart({ samples, seconds, held, live }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const read = useRef<HTMLSpanElement>(null);
  const state = useRef({ seconds, held });
  state.current = { seconds, held };
  useEffect(() => {
    const el = box.current;
    if (!el) return;
    const font = "11px 'Red Hat Mono Variable'";
    const plot = new uPlot(
      {
        width: el.clientWidth,
        height: 196,
        legend: { show: false },
        scales: {
          x: { time: false },
          rpm: { range: (_u, lo, hi) => [Math.min(0, lo ?? 0), Math.max(100, (hi ?? 0) * 1.05)] },
          a: { range: (_u, _lo, hi) => [0, Math.max(1, (hi ?? 0) * 1.1)] },
          nm: { range: (_u, lo, hi) => [Math.min(0, lo ?? 0), Math.max(1, (hi ?? 0) * 1.15)] },
          v: { range: (_u, _lo, hi) => [0, Math.max(100, (hi ?? 0) * 1.3)] },
        },
        axes: [
          { font, stroke: "#5f6863", grid: { stroke: "#e1e4e0" }, values: (_u, l) => l.map((t) => `${t} s`) },
          { scale: "rpm", font, stroke: ink, grid: { stroke: "#e1e4e0" }, size: 52 },
          { scale: "a", side: 1, font, stroke: plum, grid: { show: false }, size: 44 },
        ],
        series: [
          {},
          ...traces.map((t) => ({
            label: t.label,
            scale: t.scale,
            stroke: t.stroke,
            width: t.width,
            dash: t.dash,
            points: { show: false },
          })),
        ],
        cursor: { drag: { x: false, y: false } },
        hooks: {
          setCursor: [
            (u) => {
              const i = u.cursor.idx;
              if (read.current)
                read.current.textContent =
                  i == null
                    ? ""
                    : [
                        `at ${u.data[0][i]?.toFixed(2)} s`,
                        ...traces.map((t, k) => `${u.data[k + 1]?.[i]?.toFixed(t.key === "speed" || t.key === "link" ? 0 : 1)} ${t.unit}`),
                      ].join(" · ");
            },
          ],
        },
      },
      [[], ...traces.map(() => [])] as uPlot.AlignedData,
      el,
    );
    const draw = () => {
      const { seconds, held } = state.current;
      const l = samples.current;
      const to = held ?? l.at(-1)?.t ?? seconds;
      const from = to - seconds;
      let i = l.length;
      while (i > 0 && l[i - 1]!.t >= from) i--;
      let k = l.length;
      while (k > i && l[k - 1]!.t > to) k--;
      const shown = l.slice(Math.max(0, i - 1), k);
      plot.setData([shown.map((s) => s.t), ...traces.map((t) => shown.map((s) => s[t.key]))] as uPlot.AlignedData, false);
      plot.batch(() => {
        plot.setScale("x", { min: Math.max(0, from), max: Math.max(seconds, to) });
      });
    };
    draw();
    const timer = live ? setInterval(draw, 50) : null;
    const sized = new ResizeObserver(() => plot.setSize({ width: el.clientWidth, height: 196 }));
    sized.observe(el);
    return () => {
      if (timer) clearInterval(timer);
      sized.disconnect();
      plot.destroy();
    };
  }, [samples, live, held, seconds]);
  return (
    <div className="border border-tin-3 bg-white p-1">
      <div ref={box} role="img" aria-label="Speed, current, torque and DC link over time" />
      <p className="c flex flex-wrap items-center gap-x-5 px-2 pb-0.5 text-[12.5px] text-ink-2">
        {traces.map((t) => (
          <span key={t.key} className="flex items-center gap-1.5">
            <svg width={26} height={8} aria-hidden="true">
              <path d="M0 4H26" stroke={t.stroke} strokeWidth={t.width} strokeDasharray={t.dash?.join(" ")} />
            </svg>
            {t.label}, {t.unit}
          </span>
        ))}
        <span ref={read} className="n ml-auto text-[12px] text-ink" />
      </p>
    </div>
  );
}
