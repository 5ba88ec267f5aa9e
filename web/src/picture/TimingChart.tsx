import type { Schemas } from "../app/client";

const lead = 132;
const lane = 24;

/** What every part does over time: a bar while it is on or worked, words for a drive's states. */
export function TimingChart({
  timing,
  words,
  own,
  every = 2000,
  all,
}: {
  timing: Schemas["Timing"] | Schemas["Trained"];
  words: Record<string, string>;
  own: string;
  every?: number;
  all?: boolean;
}) {
  const moving = timing.lanes.filter((l) => all || l.spans.length > 1 || l.part === own);
  const wide = 640;
  const scale = (wide - lead - 24) / Math.max(1, timing.until_ms);
  const x = (ms: number) => lead + ms * scale;
  return (
    <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Timing">
      <svg
        width={wide}
        height={moving.length * lane + 24}
        role="img"
        aria-label={moving
          .map((l) => `${l.name}: ${l.spans.map((s) => `${s.shows} from ${(s.at_ms / 1000).toFixed(1)} s`).join(", ")}`)
          .join("; ")}
      >
        {Array.from({ length: Math.floor(timing.until_ms / every) + 1 }, (_, i) => (
          <g key={i}>
            <path d={`M${x(i * every)} 4V${moving.length * lane + 6}`} className="stroke-tin-2" />
            <text x={x(i * every)} y={moving.length * lane + 19} fontSize={10.5} textAnchor="middle" className="n fill-ink-3">
              {every < 1000 ? `${i * every} ms` : `${(i * every) / 1000} s`}
            </text>
          </g>
        ))}
        {moving.map((l, k) => {
          const y = k * lane + 6;
          return (
            <g key={l.part}>
              <text x={0} y={y + 14} fontSize={12} className="fill-ink">
                {l.name.length > 20 ? `${l.name.slice(0, 19)}…` : l.name}
              </text>
              {l.spans.map((s, i) => {
                const to = l.spans[i + 1]?.at_ms ?? timing.until_ms;
                const plain = ["on", "off", "worked", "at rest", "released", "applied", "sends", "gap"].includes(s.shows);
                const on = s.shows === "on" || s.shows === "worked" || s.shows === "released" || s.shows === "sends";
                const w = Math.max(1.5, (to - s.at_ms) * scale);
                const text = l.part === own && words[s.shows] ? words[s.shows]! : s.shows.replaceAll("-", " ");
                return plain ? (
                  <path
                    key={i}
                    d={on ? `M${x(s.at_ms)} ${y + 9}h${w}` : `M${x(s.at_ms)} ${y + 17}h${w}`}
                    className={on ? (s.shows === "worked" ? "stroke-plum" : "stroke-ink") : "stroke-tin-4"}
                    strokeWidth={on ? 11 : 1.5}
                  />
                ) : (
                  <g key={i}>
                    <rect
                      x={x(s.at_ms)}
                      y={y + 2}
                      width={w}
                      height={16}
                      className={
                        s.shows === "running"
                          ? "fill-good-0 stroke-good"
                          : s.shows.includes("fault")
                            ? "fill-stop-0 stroke-stop"
                            : "fill-white stroke-tin-4"
                      }
                    />
                    {w > text.length * 6 + 6 && (
                      <text x={x(s.at_ms) + 4} y={y + 14} fontSize={11} className="fill-ink">
                        {text}
                      </text>
                    )}
                    <title>{text}</title>
                  </g>
                );
              })}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
