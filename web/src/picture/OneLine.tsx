import type { Schemas } from "../app/client";

/** What feeds the drive, and where each is opened: a thick line is live, a dashed one dead, an outlined one not known. */
export function OneLine({ sources, drive, motor }: { sources: Schemas["Source"][]; drive: string; motor: string }) {
  if (sources.length === 0) return null;
  const h = 58;
  const height = Math.max(2, sources.length) * h + 12;
  const mid = height / 2;
  const word: Record<string, string> = { live: "LIVE", dead: "DEAD", "not-known": "NOT KNOWN" };
  return (
    <svg
      viewBox={`0 0 680 ${height}`}
      className="w-full border border-tin-3 bg-white"
      role="img"
      aria-label={`${sources.length} sources feed ${drive}: ${sources.map((s) => `${s.name} ${word[s.state.state]}, ${s.locks.length} locks`).join("; ")}`}
    >
      {sources.map((s, i) => {
        const y = i * h + h / 2 + 6;
        const open = s.locks.length > 0;
        const line =
          s.state.state === "live"
            ? { strokeWidth: 4 }
            : s.state.state === "dead"
              ? { strokeWidth: 1.6, strokeDasharray: "5 5" }
              : { strokeWidth: 2.4, strokeDasharray: "12 4" };
        const before = s.state.state === "live" || open ? { strokeWidth: 4 } : line;
        return (
          <g key={s.id}>
            <text x={12} y={y - 8} fontSize={13} className="fill-ink font-semibold">
              {s.name}
            </text>
            <text x={12} y={y + 10} fontSize={11.5} className="fill-ink-3">
              {s.kind.replace("-", " ")} {s.fed_from && `from ${s.fed_from}`}
            </text>
            <path d={`M190 ${y}H300`} className="stroke-ink" {...before} />
            <circle cx={300} cy={y} r={3.5} className="fill-ink" />
            <path d={open ? `M300 ${y}L338 ${y - 20}` : `M300 ${y}L344 ${y}`} className="stroke-ink" strokeWidth={3} />
            <circle cx={344} cy={y} r={3.5} className="fill-ink" />
            <text x={322} y={y + 20} fontSize={11.5} textAnchor="middle" className="fill-ink-2">
              {s.isolator || "isolator not named"}
            </text>
            {open && (
              <g className="fill-none stroke-ink" strokeWidth={1.8}>
                <rect x={352} y={y - 22} width={13} height={10} className="fill-plum stroke-plum" />
                <path d={`M355 ${y - 22}v-4a3.5 3.5 0 0 1 7 0v4`} className="stroke-plum" />
                <text x={371} y={y - 12} fontSize={11.5} className="fill-plum stroke-none font-semibold">
                  {s.locks.length}
                </text>
              </g>
            )}
            <path d={`M344 ${y}H470L500 ${mid}`} className="fill-none stroke-ink" {...line} />
            <text
              x={398}
              y={y - 8}
              fontSize={11.5}
              className={s.state.state === "not-known" ? "fill-stop font-semibold" : "fill-ink font-semibold"}
            >
              {word[s.state.state]}
            </text>
          </g>
        );
      })}
      <rect x={500} y={mid - 26} width={86} height={52} className="fill-tin-0 stroke-ink" strokeWidth={2} />
      <path d={`M500 ${mid + 26}L586 ${mid - 26}`} className="stroke-tin-3" strokeWidth={1.5} />
      <text x={543} y={mid + 4} fontSize={12} textAnchor="middle" className="fill-ink font-semibold">
        {drive}
      </text>
      <path d={`M586 ${mid}H622`} className="stroke-ink" strokeWidth={2} />
      <circle cx={646} cy={mid} r={24} className="fill-tin-0 stroke-ink" strokeWidth={2} />
      <text x={646} y={mid + 5} fontSize={13} textAnchor="middle" className="fill-ink font-semibold">
        M
      </text>
      <text x={646} y={mid + 40} fontSize={11} textAnchor="middle" className="fill-ink-3">
        {motor}
      </text>
    </svg>
  );
}
