import { api, ok } from "../app/client";
import { textAt, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { OnBench } from "../bench/OnBench";
import { Tune as BenchRun } from "../bench/Tune";
import { useBench } from "../bench/useBench";
import { TuneBands } from "../picture/TuneBands";
import { CheckList } from "../ui/CheckList";
import { GateScreen } from "./GateScreen";

/** The bench's kinds by those that gate Tune chooses. */
const benchKinds: Record<string, string> = {
  standstill: "standstill-short",
  "standstill-extended": "standstill",
  "rotating-uncoupled": "rotating",
  "rotating-coupled": "rotating-coupled",
  mechanical: "mechanical",
};

/** The drive learns its motor: which way, under what conditions, and whether the result can be true. */
export function Tune() {
  const { view, act } = useDesk();
  const t = view.state.tune;
  const take = (from: "bench" | "link") =>
    act(() => ok(api.POST("/api/drives/{id}/tune", { params: { path: { id: view.id } }, body: { id: newId(), from } })));
  const runs = t.kind !== "" && t.kind !== "none";
  return (
    <GateScreen
      gate="tune"
      title="Tune"
      about="The best kind that this machine permits; cold, cable as it stays, direction proved first. Any later change of the plate, the cable or the link makes it void."
      beside={<Beside />}
    >
      <Kinds />
      {runs && benchKinds[t.kind] && <BenchTune kind={benchKinds[t.kind]!} ready={t.ready} take={() => void take("bench")} />}
      {runs && t.results.length > 0 && textAt(view, "link.address") && (
        <p className="mb-3 flex flex-wrap items-center gap-3 text-[13.5px] text-ink-2">
          When the keypad shows the end:
          <button className="ghost !px-3 !py-1" disabled={!t.ready} onClick={() => void take("link")}>
            Read the result over the link
          </button>
          <span className="text-ink-3">A tune is started at the keypad only.</span>
        </p>
      )}
      <CheckList gate="tune" />
      <Modes />
    </GateScreen>
  );
}

/** Every kind with why it stands where it does; what this machine does not permit is said, and not offered below. */
function Kinds() {
  const { view } = useDesk();
  const { offers, kind } = view.state.tune;
  if (offers.length === 0) return null;
  return (
    <section aria-label="What this machine permits" className="mb-3.5 border border-tin-3 bg-tin-0 px-3.5 py-2">
      <ul className="grid grid-cols-2 gap-x-6 text-[13px] max-sm:grid-cols-1">
        {offers.map((o) => (
          <li
            key={o.kind}
            className={`grid grid-cols-[18px_1fr] border-b border-dotted border-tin-3 py-1 ${o.refused ? "text-ink-3" : ""}`}
          >
            <span aria-hidden="true">{o.refused ? "⊘" : o.kind === kind ? "●" : "○"}</span>
            <span>
              <b className={o.refused ? "font-normal line-through" : "font-semibold"}>{o.title}</b>{" "}
              <span className="sr-only">{o.refused ? "not permitted:" : ""}</span>
              <span className="text-ink-2">{o.why}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Beside() {
  const { view } = useDesk();
  const t = view.state.tune;
  return (
    <>
      {t.causes.length > 0 && (
        <section aria-label="What would explain it" className="border-l-[5px] border-stop bg-white px-3 py-2 text-[13px]">
          <h3 className="text-[14px]">This alone would explain the result</h3>
          <ol className="mt-1 list-decimal pl-5">
            {t.causes.map((c) => (
              <li key={c.code}>{c.text}</li>
            ))}
          </ol>
        </section>
      )}
      {t.results.length > 0 && (
        <>
          <h2>Result against sound motors of this plate</h2>
          <TuneBands results={t.results} />
          {t.cable && <p className="text-[12.5px] text-ink-2">{t.cable} It is in the band.</p>}
          {t.results.some((r) => r.earlier != null) && <p className="text-[12.5px] text-ink-3">○ the run before</p>}
        </>
      )}
      {t.standstill.length > 0 && (
        <>
          <h2>Magnetised at standstill, estimate</h2>
          <dl className="text-[13px]">
            {t.standstill.map((x) => (
              <div key={x.label} className="grid grid-cols-[1fr_auto] border-b border-dotted border-tin-3 py-1">
                <dt className="text-ink-2">{x.label}</dt>
                <dd className="n font-semibold">
                  {x.value} {x.unit}
                </dd>
              </div>
            ))}
          </dl>
          <p className="text-[12.5px] text-ink-3">It feels like holding, and is no brake. Off unless torque is wanted at once.</p>
        </>
      )}
    </>
  );
}

/** Two ways of control side by side, at the lowest speed of this job. */
function Modes() {
  const { view } = useDesk();
  const { modes } = view.state.tune;
  if (modes.length === 0) return null;
  return (
    <section aria-label="Control at the lowest speed" className="mb-3.5 border border-tin-3 bg-tin-0">
      <h3 className="border-b border-tin-2 px-3.5 py-1.5 text-[14px]">
        Control at {textAt(view, "intent.lowest_speed")} r/min{" "}
        <span className="c text-[12.5px] font-normal text-ink-3">
          estimate from the plate, within the current limit; chosen at gate Span
        </span>
      </h3>
      <table className="list w-full text-[13px]">
        <thead>
          <tr>
            <th>Control</th>
            <th className="text-right">Torque there</th>
            <th>Holds from</th>
            <th>For this job</th>
          </tr>
        </thead>
        <tbody>
          {modes.map((m) => (
            <tr key={m.name} className={m.chosen ? "bg-plum-0" : ""}>
              <td>
                {m.name} {m.chosen && <b className="c ml-1 bg-plum px-1.5 text-[12px] text-white">chosen</b>}
              </td>
              <td className="n text-right font-semibold">{m.torque}</td>
              <td>{m.from}</td>
              <td>
                {m.enough ? <span className="text-good">✓ enough</span> : <span className="text-warn">▲ not sure</span>}{" "}
                <span className="c text-ink-3">{m.note}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The kind that was chosen, run on this job's own bench; its result is read over the bench's link. */
function BenchTune({ kind, ready, take }: { kind: string; ready: boolean; take: () => void }) {
  const { view } = useDesk();
  const bench = useBench();
  const b = bench.v?.bench;
  const r = view.state.tune.recipe;
  const done = b?.tune && !b.tune.running && !b.tune.failed && b.tune.kind === kind;
  return (
    <OnBench title="The tune on the bench" bench={bench} coupled={kind === "mechanical" || kind === "rotating-coupled"}>
      {(act) => (
        <div className="-mt-2">
          <BenchRun v={bench.v!} act={act} only={kind} />
          <div className="mt-2 flex flex-wrap items-center gap-3 text-[13.5px]">
            {r && (
              <span className="flex gap-2">
                as at the keypad:
                <button className="act" onClick={() => act({ do: "setting", what: r.setting, value: Number(r.value) })}>
                  set {r.setting} to {r.value}
                </button>
                <button className="act" onClick={() => act({ do: "run" })}>
                  press {r.start}
                </button>
                <button className="act" onClick={() => act({ do: "stop" })}>
                  stop
                </button>
              </span>
            )}
            <button className="ghost !px-3 !py-1" onClick={() => act({ do: "faster", n: b!.faster > 8 ? -6 : 5 })}>
              {b!.faster > 8 ? "In real time" : "Hurry time"}
            </button>
            <button className="act" onClick={() => act({ do: "break", what: "wrong-link", on: !b!.broken.includes("wrong-link") })}>
              {b!.broken.includes("wrong-link") ? "Motor is linked wrong: put right" : "Break: link the motor for the other voltage"}
            </button>
            {view.state.simulated ? (
              <button className="btn" disabled={!done || !ready} onClick={take}>
                Read the result over the bench's link
              </button>
            ) : (
              <span className="text-ink-3">For practice: this place is real, and a tune of the bench is not its drive's.</span>
            )}
            {view.state.simulated && !ready && <span className="text-ink-3">Answer what comes before it first.</span>}
          </div>
        </div>
      )}
    </OnBench>
  );
}
