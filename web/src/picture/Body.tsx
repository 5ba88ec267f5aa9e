import type { Schemas } from "../app/client";

type Body = Schemas["Body"];

/** A drive's frame from its front, to scale: outline, holes and their distances, terminals below. */
export function BodyPicture({ body, print }: { body: Body; print: string }) {
  const [w, h] = [body.width_mm || body.holes_across_mm || 100, body.height_mm || body.holes_up_mm || 200];
  const k = Math.min(190 / w, 210 / h);
  const [left, top] = [64 + (190 - w * k) / 2, 18];
  const mid = { x: left + (w * k) / 2, y: top + (h * k) / 2 };
  const [dx, dy] = [(body.holes_across_mm * k) / 2, (body.holes_up_mm * k) / 2];
  const holes = body.holes_up_mm
    ? (body.holes_across_mm ? [-dx, dx] : [0]).flatMap((x) => [-dy, dy].map((y) => [mid.x + x, mid.y + y] as const))
    : [];
  const off = body.covers.filter((c) => c.off === "power").map((c) => c.name);
  return (
    <figure className="grid grid-cols-[300px_1fr] gap-4 border border-tin-3 bg-white p-3 max-sm:grid-cols-1">
      <svg viewBox={`0 0 300 ${h * k + 44}`} role="img" aria-label={`Frame ${body.frame}, ${w} by ${h} mm`} className="w-full">
        <rect x={left} y={top} width={w * k} height={h * k} fill="var(--color-tin-1, #eef1ee)" stroke="#17201d" strokeWidth="1.4" />
        <rect x={left + w * k * 0.2} y={top + h * k * 0.12} width={w * k * 0.6} height={h * k * 0.2} fill="#fff" stroke="#8a958f" />
        <line
          x1={left}
          x2={left + w * k}
          y1={top + h * k * 0.74}
          y2={top + h * k * 0.74}
          stroke="#8a958f"
          strokeDasharray={off.length ? "5 3" : undefined}
        />
        {holes.map(([x, y]) => (
          <g key={`${x} ${y}`} stroke="#5b2b5d">
            <circle cx={x} cy={y} r="4" fill="#fff" />
            <path d={`M${x - 8} ${y}H${x + 8}M${x} ${y - 8}V${y + 8}`} />
          </g>
        ))}
        <g fontSize="11" fill="#17201d" textAnchor="middle">
          {holes.length > 0 && (
            <>
              <path d={`M40 ${mid.y - dy}V${mid.y + dy}M34 ${mid.y - dy}H46M34 ${mid.y + dy}H46`} stroke="#5b2b5d" />
              <text x="20" y={mid.y + 4} className="n">
                {body.holes_up_mm}
              </text>
            </>
          )}
          {dx > 0 && (
            <text x={mid.x} y={mid.y - dy - 8 < 12 ? 12 : mid.y - dy - 8} className="n">
              {body.holes_across_mm}
            </text>
          )}
          <text x={mid.x} y={top + h * k * 0.88}>
            terminals
          </text>
          <text x={mid.x} y={top + h * k + 18} className="n">
            {body.width_mm} × {body.height_mm} × {body.depth_mm} mm
          </text>
        </g>
      </svg>
      <figcaption className="text-[13px] leading-relaxed text-ink-2">
        <p className="text-[14px] text-ink">
          Frame {body.frame}
          {body.kg > 0 && `, ${body.kg} kg`}
          {body.lift && `: ${body.lift}`}
        </p>
        {body.covers.length > 0 && (
          <ol className="my-1 list-decimal pl-5">
            {body.covers.map((c) => (
              <li key={c.name}>
                {c.name}: {c.how}
                {c.off && ` · off before ${c.off === "power" ? "the power terminals" : "control wiring"}`}
                {c.back && ` · back before ${c.back === "control" ? "control wiring" : "the supply comes"}`}
              </li>
            ))}
          </ol>
        )}
        {body.one_phase.length === 2 && (
          <p>
            One phase on {body.one_phase.join(" and ")}
            {body.one_phase_empty.length > 0 && `; ${body.one_phase_empty.join(", ")} stays empty`}.
          </p>
        )}
        {body.port && <p>The link goes in {body.port}.</p>}
        <p>
          {body.without_mains.length
            ? `Without mains, on a control supply, ${body.without_mains.join(" and ")} live: a lit display says nothing of the link.`
            : "Keypad and link are dead without mains."}
        </p>
        {holes.length > 0 && (
          <a className="act mt-1 inline-block" href={print}>
            Hole pattern 1:1, to print
          </a>
        )}
      </figcaption>
    </figure>
  );
}
