import { useRef, useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { useWhen } from "../app/place";
import { LiveChart } from "./LiveChart";
import type { Sample } from "./live";

/** A kept trace as samples; its columns are found by their names. */
function read(v: Schemas["TraceView"]): Sample[] {
  const column = (name: string) => v.values[v.columns.findIndex((c) => c.name === name)] ?? [];
  const [speed, hz, current, torque, link, reference] = ["speed", "frequency", "current", "torque", "DC link", "reference"].map(column);
  return v.times.map((t, i) => ({
    t,
    speed: speed![i] ?? 0,
    hz: hz![i] ?? 0,
    current: current![i] ?? 0,
    torque: torque![i] ?? 0,
    link: link![i] ?? 0,
    reference: reference![i] ?? 0,
  }));
}

/** Traces that were kept with this drive. */
export function Kept({ open }: { open: (name: string, samples: Sample[]) => void }) {
  const { view, setNotice } = useDesk();
  const when = useWhen();
  const list = view.state.attachments.filter((a) => a.of === "bench-trace");
  if (list.length === 0) return null;
  return (
    <section className="mt-4" aria-label="Kept traces">
      <h3 className="text-[14px]">Kept traces</h3>
      <ul className="text-[13px]">
        {list.map((a) => (
          <li key={a.id} className="flex items-baseline gap-4 border-b border-dotted border-tin-3 py-1">
            <span className="flex-1">
              {a.name} <span className="text-ink-3">{when(a.at)}</span>
            </span>
            <button
              className="act"
              onClick={() =>
                void ok(api.GET("/api/traces/{id}", { params: { path: { id: a.sha256 } } })).then(
                  (v) => {
                    setNotice(v.problem ?? "");
                    open(a.name, read(v));
                  },
                  (e) => setNotice(say(e)),
                )
              }
            >
              Open
            </button>
            <a className="act" href={`/api/traces/${a.sha256}/table.csv`} download={`${a.name.replaceAll(" ", "-")}.csv`}>
              CSV
            </a>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A kept trace, whole, with two cursors and what lies between them. */
export function Trace({ name, samples, close }: { name: string; samples: Sample[]; close: () => void }) {
  const ref = useRef(samples);
  ref.current = samples;
  const from = samples[0]?.t ?? 0;
  const to = samples.at(-1)?.t ?? 1;
  const [a, setA] = useState(from);
  const [b, setB] = useState(to);
  const at = (t: number) => samples.reduce((best, s) => (Math.abs(s.t - t) < Math.abs(best.t - t) ? s : best), samples[0]!);
  const x = at(a);
  const y = at(b);
  const rows: [string, keyof Sample, number][] = [
    ["time, s", "t", 2],
    ["speed, r/min", "speed", 0],
    ["frequency, Hz", "hz", 1],
    ["current, A", "current", 2],
    ["torque, N·m", "torque", 1],
    ["DC link, V", "link", 0],
  ];
  return (
    <section aria-label={`Trace ${name}`} className="mt-2">
      <div className="mb-1 flex items-baseline gap-4">
        <h3>{name}</h3>
        <button className="act" onClick={close}>
          Back to the bench
        </button>
      </div>
      <LiveChart samples={ref} seconds={Math.max(1, to - from)} held={to} live={false} />
      <div className="mt-2 grid grid-cols-2 gap-4 text-[13px] max-sm:grid-cols-1">
        {(
          [
            ["First cursor", a, setA],
            ["Second cursor", b, setB],
          ] as const
        ).map(([label, value, set]) => (
          <label key={label} className="flex items-center gap-2">
            {label}
            <input
              type="range"
              className="h-7 flex-1 accent-plum"
              min={from}
              max={to}
              step={0.05}
              value={value}
              onChange={(e) => set(Number(e.target.value))}
            />
          </label>
        ))}
      </div>
      <table className="list mt-2 w-full max-w-[520px] text-[13px]">
        <thead>
          <tr>
            <th />
            <th>first</th>
            <th>second</th>
            <th>between</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([label, key, digits]) => (
            <tr key={key}>
              <th>{label}</th>
              <td className="n">{x[key].toFixed(digits)}</td>
              <td className="n">{y[key].toFixed(digits)}</td>
              <td className="n">{(y[key] - x[key]).toFixed(digits)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
