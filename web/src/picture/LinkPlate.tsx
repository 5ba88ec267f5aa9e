import type { Schemas } from "../app/client";

type Scheme = Schemas["Scheme"];

/** A motor's leads as they are to be linked: each bar joins the leads on it; a bar at the left edge goes to a line of the drive. */
export function LinkPlate({ scheme }: { scheme: Scheme }) {
  const bars = [
    ...Object.entries(scheme.lines)
      .sort()
      .map(([line, leads]) => ({ line, leads })),
    ...scheme.joins.map((leads) => ({ line: "", leads })),
  ];
  const drive: Record<string, string> = { L1: "U", L2: "V", L3: "W" };
  const step = 34;
  const words = bars.map((b) => (b.line ? `${drive[b.line]} to ${b.leads.join(", ")}` : `${b.leads.join(", ")} joined`)).join("; ");
  return (
    <svg
      viewBox={`0 0 380 ${bars.length * step + 12}`}
      className="w-full border border-tin-3 bg-white"
      role="img"
      aria-label={`${scheme.connection}: ${words}`}
    >
      {bars.map((b, i) => {
        const y = 22 + i * step;
        const from = b.line ? 44 : 104;
        return (
          <g key={i}>
            {b.line && (
              <text x={10} y={y + 6} fontSize={17} fontWeight={700} className="fill-ink">
                {drive[b.line]}
              </text>
            )}
            <path
              d={`M${from} ${y}H${104 + (b.leads.length - 1) * 64}`}
              className={b.line ? "stroke-ink" : "stroke-plum"}
              strokeWidth={b.line && b.leads.length === 1 ? 3 : 8}
            />
            {b.leads.map((lead, k) => (
              <g key={lead}>
                <circle cx={104 + k * 64} cy={y} r={9} className="fill-white stroke-ink" strokeWidth={2} />
                <text
                  x={118 + k * 64}
                  y={y - 6}
                  fontSize={13}
                  fontWeight={600}
                  className="n fill-ink"
                  paintOrder="stroke"
                  stroke="white"
                  strokeWidth={3}
                >
                  {lead}
                </text>
              </g>
            ))}
          </g>
        );
      })}
    </svg>
  );
}
