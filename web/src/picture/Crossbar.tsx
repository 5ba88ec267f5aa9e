import type { Schemas } from "../app/client";

const places = [
  ["keypad", "keypad"],
  ["terminals", "terminals"],
  ["analog", "V, mA"],
  ["presets", "presets"],
  ["network", "network"],
  ["controller", "own controller"],
] as const;

const left = 118;
const step = 86;
const top = 34;
const row = 25;

/** Who gives what: rails of the sources down, commands across, a joint where one gives the other; full in auto, open in hand. */
export function Crossbar({ gives }: { gives: Schemas["Giver"][] }) {
  const bottom = top + gives.length * row;
  const x = (k: number) => left + 40 + k * step;
  const words = (by: string[]) => (by.length ? by.map((b) => places.find(([key]) => key === b)?.[1]).join(" and ") : "nobody");
  return (
    <svg
      viewBox={`0 0 660 ${bottom + 26}`}
      className="w-full bg-white"
      role="img"
      aria-label={gives.map((g) => `${g.what}: in auto ${words(g.auto_by)}, in hand ${words(g.hand_by)}`).join("; ")}
    >
      {places.map(([key, name], k) => {
        const used = gives.some((g) => g.auto_by.includes(key) || g.hand_by.includes(key));
        return (
          <g key={key}>
            <text
              x={x(k)}
              y={18}
              fontSize={12}
              textAnchor="middle"
              fontWeight={used ? 600 : 400}
              className={used ? "fill-ink" : "fill-ink-3"}
            >
              {name}
            </text>
            <path d={`M${x(k)} 24V${bottom - 4}`} className={used ? "stroke-tin-4" : "stroke-tin-2"} strokeWidth={used ? 4 : 2} />
          </g>
        );
      })}
      {gives.map((g, i) => {
        const y = top + (i + 0.5) * row;
        const ends = [...g.auto_by, ...g.hand_by].map((by) => x(places.findIndex(([key]) => key === by)));
        return (
          <g key={g.what}>
            <text x={8} y={y + 4} fontSize={12.5} fontWeight={600} className="fill-ink">
              {g.what}
            </text>
            {ends.length > 0 && <path d={`M${left} ${y}H${Math.max(...ends)}`} className="stroke-ink" strokeWidth={1.2} />}
            {g.auto_by.length === 0 && (
              <text
                x={ends.length ? Math.max(...ends) + 16 : left}
                y={y + 4}
                fontSize={12}
                strokeWidth={5}
                paintOrder="stroke"
                className="fill-ink-2 stroke-white"
              >
                {g.auto}
              </text>
            )}
            {places.map(([key], k) => (
              <g key={key}>
                {g.hand_by.includes(key) && <circle cx={x(k)} cy={y} r={9} className="fill-white stroke-ink" strokeWidth={2} />}
                {g.auto_by.includes(key) && <circle cx={x(k)} cy={y} r={5.5} className="fill-plum" />}
              </g>
            ))}
          </g>
        );
      })}
      <g fontSize={12} className="fill-ink-2">
        <circle cx={left + 6} cy={bottom + 11} r={5.5} className="fill-plum" />
        <text x={left + 17} y={bottom + 15}>
          in auto
        </text>
        <circle cx={left + 82} cy={bottom + 11} r={9} className="fill-white stroke-ink" strokeWidth={2} />
        <text x={left + 96} y={bottom + 15}>
          in hand
        </text>
      </g>
    </svg>
  );
}
