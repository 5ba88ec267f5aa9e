import type { BenchView } from "./live";
import type { BenchAct } from "./useBench";

const kinds: [string, string, string][] = [
  ["standstill-short", "Standstill, short", "stator resistance only"],
  ["standstill", "Standstill", "and leakage and rotor resistance"],
  ["rotating", "Rotating, uncoupled", "everything; the shaft turns free"],
  ["rotating-coupled", "Rotating, coupled", "the same with the load on the shaft"],
  ["mechanical", "Mechanical only", "inertia, after a tune"],
];

/** The bench drive identifies its motor: it sees sampled currents and the plate that was entered, nothing else. */
export function Tune({ v, act, only }: { v: BenchView; act: BenchAct; only?: string }) {
  const t = v.bench.tune;
  const figures: [string, number | null | undefined, string, number][] = t
    ? [
        ["Stator resistance", t.rs_ohm, "Ω", 4],
        ["Rotor resistance", t.rr_ohm, "Ω", 4],
        ["Leakage", t.leakage_mh, "mH", 3],
        ["Magnetising inductance", t.lm_mh, "mH", 2],
        ["Magnetising current", t.magnetising_a, "A", 2],
        ["Inertia", t.inertia_kgm2, "kg·m²", 4],
      ]
    : [];
  const learnt = figures.filter(([, x]) => x != null);
  return (
    <section aria-label="Autotune" className="mt-4">
      <h3 className="mb-1 text-[14px]">Autotune</h3>
      <div className="flex flex-wrap gap-2">
        {kinds
          .filter(([key]) => !only || key === only)
          .map(([key, name, about]) => (
            <button
              key={key}
              className="ghost !px-3 !py-1 text-[13px]"
              title={about}
              disabled={t?.running}
              onClick={() => act({ do: "tune", what: key })}
            >
              {name}
            </button>
          ))}
      </div>
      {v.bench.armed && (
        <p className="mt-1 text-[13px] font-semibold text-must" role="status">
          ● {v.bench.armed}
        </p>
      )}
      {!t && (
        <p className="mt-1 text-[13px] text-ink-2">
          {v.bench.tuned ? "The drive holds a tune." : "Nothing is tuned: the drive takes its motor for a usual one of this plate."}
        </p>
      )}
      {t?.running && (
        <div className="mt-2 max-w-[560px] text-[13px]">
          <p>
            <b>{t.step}</b> · {t.heard} {t.keypad && <span className="n ml-2 border border-ink bg-white px-1.5">{t.keypad}</span>}
          </p>
          <progress
            className="h-2 w-full accent-plum"
            value={t.elapsed}
            max={Math.max(t.expected, t.elapsed)}
            aria-label="Progress of the tune"
          />
          <ol className="flex gap-3">
            {t.steps.map((s) => (
              <li
                key={s.name}
                className={`c ${s.name === t.step ? "font-semibold text-ink" : s.until < t.elapsed ? "text-good" : "text-ink-3"}`}
              >
                {s.until < t.elapsed && s.name !== t.step ? "✓ " : ""}
                {s.name} to <span className="n">{s.until.toFixed(0)} s</span>
              </li>
            ))}
            <li className="n ml-auto">
              {t.elapsed.toFixed(1)} of {t.expected.toFixed(0)} s
            </li>
          </ol>
        </div>
      )}
      {t && !t.running && t.failed && (
        <p className="mt-2 text-stop" role="status">
          ✕ {t.failed}
        </p>
      )}
      {t && !t.running && learnt.length > 0 && (
        <div className="mt-2 max-w-[560px]">
          <p className={v.bench.tuned ? "text-good" : "text-warn"} role="status">
            {v.bench.tuned
              ? `✓ Done in ${t.elapsed.toFixed(1)} s, kept in the drive.`
              : t.kind === "rotating"
                ? "▲ Void: an entry of the motor was changed since. Tune again."
                : "✓ Done. This kind does not learn everything: the drive keeps what it took for granted."}
          </p>
          <dl className="grid grid-cols-2 gap-x-8 max-sm:grid-cols-1">
            {learnt.map(([name, x, unit, digits]) => (
              <div key={name} className="grid grid-cols-[1fr_auto] gap-2 border-b border-dotted border-tin-3 py-1 text-[13px]">
                <dt className="text-ink-2">{name}</dt>
                <dd className="n font-semibold">
                  {x!.toFixed(digits)} {unit}
                </dd>
              </div>
            ))}
          </dl>
        </div>
      )}
    </section>
  );
}
