import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useOnceSaved } from "../app/saver";

type Step = Schemas["ProofStep"];

const signs: Record<string, string> = { holds: "✓ holds", "look-again": "▲ differs", stops: "✕ stops", "left-out": "– left out" };
const colours: Record<string, string> = { holds: "text-good", stops: "text-stop", "look-again": "text-warn", "left-out": "text-ink-3" };

/** One button: the plan, through the drive's own settings, on a simulated drive, motor and load. Kept as a decision. */
export function Prove() {
  const { view, saver, refresh } = useDesk();
  const [busy, setBusy] = useState<AbortController | null>(null);
  const [kept, setV] = useState<Schemas["ProofView"]>();
  const [version, setVersion] = useState(0); // of the plan that was run
  const v = version === view.version ? kept : undefined;
  const [error, setError] = useState("");
  const [open, setOpen] = useState("");
  const far = useQuery({
    queryKey: ["prove-progress", view.id],
    enabled: !!busy,
    refetchInterval: 250,
    queryFn: () => ok(api.GET("/api/drives/{id}/prove", { params: { path: { id: view.id } } })),
  });
  async function run() {
    const stop = new AbortController();
    setBusy(stop);
    setVersion(view.version);
    setError("");
    try {
      setV(await ok(api.POST("/api/drives/{id}/prove", { params: { path: { id: view.id } }, body: { id: newId() }, signal: stop.signal })));
      refresh();
    } catch (e) {
      if (!stop.signal.aborted) setError(say(e));
    } finally {
      setBusy(null);
    }
  }
  const [saving, prove] = useOnceSaved(saver, () => void run());
  const p = v?.proof;
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Proved on the bench">
      <div className="flex flex-wrap items-center gap-3 px-3.5 py-2">
        <h3 className="text-[14px]">Prove it on the bench</h3>
        <button className="btn !py-1.5" disabled={!!busy || saving} onClick={prove}>
          {busy ? `Running${far.data?.all ? `, ${far.data.done} of ${far.data.all} parts` : "…"}` : "Run the plan"}
        </button>
        {busy && (
          <button className="act" onClick={() => busy.abort()}>
            End it
          </button>
        )}
        <span className="text-[12.5px] text-ink-3">
          Start, ramps, lowest and highest, reference or presets, reverse, loss of signal, stop; it ends at the first trip. Nothing real is
          commanded.
        </span>
      </div>
      {error && <p className="px-3.5 pb-2 text-stop">✕ {error}</p>}
      {kept && !v && !busy && <p className="px-3.5 pb-2 text-[13px] text-warn">▲ The plan has changed since it was run: run it again.</p>}
      {v?.missing && <p className="px-3.5 pb-2 text-[13px]">It needs {v.missing}.</p>}
      {p && !v.missing && (
        <>
          <p
            className={`px-3.5 pb-2 text-[13.5px] font-semibold ${p.trip ? "text-stop" : p.differs > 0 ? "text-warn" : "text-good"}`}
            role="status"
          >
            {p.trip
              ? `✕ It ${p.trip.stalls ? "stalls" : "trips"} in the ${p.trip.while}: ${p.trip.word || p.trip.code}. ${p.would ?? ""}`
              : p.differs > 0
                ? `▲ ${p.differs} differ, ${p.holds} hold.`
                : `✓ All ${p.holds} hold.`}
          </p>
          <table className="list w-full bg-white">
            <thead>
              <tr>
                <th>Step</th>
                <th className="w-32">Wanted</th>
                <th className="w-32">Bench</th>
                <th className="w-24" />
              </tr>
            </thead>
            <tbody>
              {p.steps.map((s) => (
                <Row key={s.key} s={s} open={open === s.key} toggle={() => setOpen(open === s.key ? "" : s.key)} />
              ))}
            </tbody>
          </table>
          {v.assumed.length > 0 && <p className="px-3.5 py-1.5 text-[12px] text-ink-3">Taken for granted: {v.assumed.join(" ")}</p>}
        </>
      )}
    </section>
  );
}

function Row({ s, open, toggle }: { s: Step; open: boolean; toggle: () => void }) {
  return (
    <>
      <tr data-proof={s.key}>
        <td className="text-[13px]">
          {s.trace.length > 1 ? (
            <button className="text-left underline decoration-dotted underline-offset-2" aria-expanded={open} onClick={toggle}>
              {s.title}
            </button>
          ) : (
            s.title
          )}
          {s.detail && <div className="text-[12.5px] text-ink-2">{s.detail}</div>}
        </td>
        <td className="n text-[13px]">{s.wanted}</td>
        <td className="n text-[13px]">{s.got}</td>
        <td className={`text-[13px] font-bold ${colours[s.verdict]}`}>{signs[s.verdict]}</td>
      </tr>
      {open && (
        <tr>
          <td colSpan={4}>
            <Trace s={s} />
          </td>
        </tr>
      )}
    </>
  );
}

/** Speed and current while a step ran. */
function Trace({ s }: { s: Step }) {
  const l = s.trace;
  const t0 = l[0]!.t;
  const span = Math.max(l.at(-1)!.t - t0, 0.1);
  const top = Math.max(...l.map((p) => Math.abs(p.speed)), 1);
  const amps = Math.max(...l.map((p) => p.current), 0.1);
  const x = (t: number) => 40 + ((t - t0) / span) * 560;
  const line = (of: (p: (typeof l)[number]) => number, y0: number, high: number, max: number) =>
    `M${l.map((p) => `${x(p.t).toFixed(1)} ${(y0 + high - (Math.abs(of(p)) / max) * high).toFixed(1)}`).join("L")}`;
  return (
    <svg
      viewBox="0 0 640 130"
      className="w-full"
      role="img"
      aria-label={`${s.title}: up to ${top.toFixed(0)} r/min and ${amps.toFixed(1)} A in ${span.toFixed(1)} s`}
    >
      <g fill="none" className="stroke-ink">
        <path
          d={line((p) => p.asked, 8, 64, Math.max(top, ...l.map((p) => Math.abs(p.asked))))}
          strokeWidth={1}
          strokeDasharray="5 3"
          className="stroke-ink-3"
        />
        <path d={line((p) => p.speed, 8, 64, Math.max(top, ...l.map((p) => Math.abs(p.asked))))} strokeWidth={2.2} />
        <path d={line((p) => p.current, 80, 34, amps)} strokeWidth={1.6} />
      </g>
      <g fontSize={10.5} className="n fill-ink-2">
        <text x={0} y={16}>
          {top.toFixed(0)}
        </text>
        <text x={0} y={28}>
          r/min
        </text>
        <text x={0} y={92}>
          {amps.toFixed(1)} A
        </text>
        <text x={40} y={128}>
          {t0.toFixed(1)} s
        </text>
        <text x={600} y={128} textAnchor="end">
          {(t0 + span).toFixed(1)} s
        </text>
      </g>
    </svg>
  );
}
