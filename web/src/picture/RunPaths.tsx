import type { Schemas } from "../app/client";

type Path = Schemas["RunPath"];

const lane = 58;
const box = 190;

/** What must be closed for the motor to run, terminal by terminal; what other equipment can break is drawn doubled. */
export function RunPaths({ paths, logic }: { paths: Path[]; logic: string }) {
  if (paths.length === 0) return null;
  const widest = Math.max(1, ...paths.map((p) => p.needs.length));
  const end = 74 + widest * (box + 22);
  const rail = logic === "sink" ? "0 V" : "24 V";
  const others = paths.flatMap((p) => p.needs.filter((n) => n.other).map((n) => n.part));
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0 px-3.5 pt-2 pb-3" aria-label="Run paths">
      <h3 className="mb-1 text-[14px]">What a run needs</h3>
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Picture of the run paths">
        <svg
          width={end + 190}
          height={paths.length * lane + 8}
          role="img"
          aria-label={paths
            .map((p) => `${p.terminal} ${p.text}: ${p.needs.map((n) => n.part).join(", then ") || "nothing can break it"}`)
            .join("; ")}
        >
          <path d={`M40 6V${paths.length * lane}`} className="stroke-ink" strokeWidth={4} />
          {paths.map((p, i) => {
            const y = i * lane + 30;
            return (
              <g key={p.terminal}>
                <path d={`M40 ${y}H${end}`} className="stroke-ink" strokeWidth={p.function === "torque-off" ? 3.5 : 2} />
                {p.needs.map((n, k) => {
                  const x = 62 + k * (box + 22);
                  return (
                    <g key={n.part + k}>
                      {n.other && (
                        <rect
                          x={x - 4}
                          y={y - 25}
                          width={box + 8}
                          height={50}
                          className="fill-none stroke-plum"
                          strokeWidth={1.5}
                          strokeDasharray="6 3"
                        />
                      )}
                      <rect
                        x={x}
                        y={y - 21}
                        width={box}
                        height={42}
                        className={n.other ? "fill-plum-0 stroke-plum" : "fill-white stroke-ink"}
                        strokeWidth={1.5}
                      />
                      <text x={x + 8} y={y - 4} fontSize={13} fontWeight={600} className="n fill-ink">
                        {n.part}
                        <tspan fontWeight={400} fontSize={11.5} className="fill-ink-3">
                          {n.closed ? "  opens when worked" : "  closes when worked"}
                        </tspan>
                      </text>
                      <text x={x + 8} y={y + 12} fontSize={11.5} className="fill-ink-2">
                        {n.name.length > 28 ? `${n.name.slice(0, 27)}…` : n.name}
                      </text>
                    </g>
                  );
                })}
                <circle cx={end} cy={y} r={4.5} className="fill-white stroke-ink" strokeWidth={1.5} />
                <text x={end + 12} y={y - 2} fontSize={13} fontWeight={600} className="n fill-ink">
                  {p.terminal}
                </text>
                <text x={end + 12} y={y + 14} fontSize={11.5} className="fill-ink-2">
                  {p.text}
                </text>
              </g>
            );
          })}
          <text x={4} y={20} fontSize={11.5} className="n fill-ink-2">
            {rail}
          </text>
        </svg>
      </div>
      {others.length > 0 && (
        <p className="mt-1 text-[12.5px] text-ink-2">
          Dashed: worked by other equipment. It may open while the drive is healthy, and the drive is not told why.
        </p>
      )}
    </section>
  );
}
