import type { View } from "../app/client";

/** Speed over time as the intent asks for it: rise, hold, fall, between the lowest and the highest speed. */
export function Ramps({ view }: { view: View }) {
  const i = view.drive.intent;
  const top = i?.highest_speed?.value ?? 0;
  const low = i?.lowest_speed?.value ?? 0;
  const rise = i?.rise?.value ?? 0;
  const fall = i?.fall?.value ?? 0;
  if (!(top > 0)) return <p className="border border-tin-3 bg-white p-3 text-[13px] text-ink-3">Enter the highest speed to see the ramps.</p>;
  const up = rise > 0 && i?.rise?.unit === "r/min/s" ? top / rise : 0;
  const down = fall > 0 && i?.fall?.unit === "r/min/s" ? top / fall : 0;
  const hold = Math.max((up + down) * 0.35, 1);
  const total = up + hold + down;
  const x = (t: number) => 44 + (t / total) * 560;
  const y = (n: number) => 128 - (n / top) * 96;
  return (
    <svg viewBox="0 0 660 156" className="w-full border border-tin-3 bg-white" role="img" aria-label={`Rise, hold and fall between 0 and ${i?.highest_speed?.text} r/min`}>
      <g className="stroke-tin-2" strokeWidth={1}>
        <path d={`M44 ${y(0)}H640M44 ${y(top)}H640`} />
      </g>
      {low > 0 && low < top && <path d={`M44 ${y(low)}H640`} className="stroke-ink-3" strokeWidth={1} strokeDasharray="5 4" />}
      <path d={`M${x(0)} ${y(0)}L${x(up)} ${y(top)}H${x(up + hold)}L${x(total)} ${y(0)}`} fill="none" className="stroke-ink" strokeWidth={2.5} />
      <g className="n fill-ink-2" fontSize={11}>
        <text x={4} y={y(top) + 4}>{i?.highest_speed?.text}</text>
        {low > 0 && low < top && <text x={4} y={y(low) + 4}>{i?.lowest_speed?.text}</text>}
        <text x={28} y={y(0) + 4}>0</text>
        <text x={x(up) + 10} y={y(top) + 20}>rise {i?.rise?.text}</text>
        <text x={x(up + hold) - 10} y={y(top) + 20} textAnchor="end">fall {i?.fall?.text}</text>
        <text x={x(up + hold / 2) - 20} y={y(top) - 6}>r/min at the shaft</text>
        <text x={590} y={148}>seconds</text>
      </g>
    </svg>
  );
}
