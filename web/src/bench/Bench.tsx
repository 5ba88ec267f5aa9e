import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useState, type ReactNode } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { Dialog } from "../ui/Dialog";
import { Foot } from "../ui/Foot";
import { ReadingColumn } from "../ui/Reading";
import { LiveChart } from "./LiveChart";
import { useLive, type BenchView, type Sample } from "./live";
import { Reference, Terminals } from "./Terminals";
import { Kept, Trace } from "./Traces";
import { Tune } from "./Tune";
import { blocks, states } from "./words";

/** A simulated drive, motor and load out of this job's own figures. Nothing here is wired to a machine. */
export function Bench() {
  const { view, act: send, setNotice } = useDesk();
  const first = useQuery({ queryKey: ["bench", view.id], queryFn: () => ok(api.GET("/api/drives/{id}/bench", { params: { path: { id: view.id }, query: { after: -1 } } })), staleTime: 0 });
  const live = useLive(view.id, first.data);
  const { setView } = live;
  const [breaking, setBreaking] = useState(false);
  const [opened, setOpened] = useState<{ name: string; samples: Sample[] } | null>(null);
  const v = live.view;
  const path = { path: { id: view.id } };
  const act = useCallback(
    (a: { do: string; n?: number; on?: boolean; value?: number; what?: string }) => {
      ok(api.POST("/api/drives/{id}/bench/acts", { params: { path: { id: view.id } }, body: a as Schemas["Act"] })).then(
        () => setNotice(""),
        (e) => setNotice(say(e)),
      );
    },
    [view.id, setNotice],
  );
  const setUp = async (body: Schemas["BenchSetup"]) => {
    try {
      setView(await ok(api.POST("/api/drives/{id}/bench", { params: path, body })));
      setNotice("");
    } catch (e) {
      setNotice(say(e));
    }
  };
  const faster = v?.bench.faster ?? 1;
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement && e.target.type !== "range" && e.target.type !== "checkbox";
      if ((e.ctrlKey || e.metaKey) && e.key === ".") {
        e.preventDefault();
        act({ do: "stop", on: true });
      } else if (!typing && e.key === "]") act({ do: "faster", n: 1 });
      else if (!typing && e.key === "[") act({ do: "faster", n: -1 });
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [act]);
  if (!v) return <p className="p-6">{first.error ? say(first.error) : "Reading…"}</p>;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_348px] max-lg:grid-cols-1">
      <main className="flex min-h-0 flex-col">
        <div className="min-h-0 flex-1 overflow-y-auto px-5 pt-3 pb-4">
          <div className="flex flex-wrap items-baseline gap-3">
            <h1>Bench</h1>
            {v.there && (
              <span className="c text-ink-2">
                answers Modbus TCP on <span className="n text-[12.5px]">{v.address}</span> · <span className="n text-[12.5px]">{faster}</span> × real time
              </span>
            )}
          </div>
          {opened ? <Trace name={opened.name} samples={opened.samples} close={() => setOpened(null)} /> : v.there ? <Running v={v} samples={live.samples} act={act} /> : <Begin v={v} setUp={setUp} />}
          <Kept open={(name, samples) => setOpened({ name, samples })} />
        </div>
        {v.there && (
          <Foot
            keys={[
              ["faster", "]"],
              ["slower", "["],
            ]}
          >
            <button className="btn !bg-stop" onClick={() => act({ do: "stop", on: true })}>
              Stop <span className="font-normal">Ctrl .</span>
            </button>
            <button className="ghost" onClick={() => void send(() => ok(api.POST("/api/drives/{id}/bench/traces", { params: path, body: { id: newId(), name: `bench run of ${v.bench.time.toFixed(0)} s` } })))}>
              Take this trace
            </button>
            <button className="ghost" onClick={() => setBreaking(true)}>
              Break something…
            </button>
          </Foot>
        )}
      </main>
      <ReadingColumn>
        <Holds v={v} />
        {v.there && <Again v={v} setUp={setUp} end={() => void ok(api.DELETE("/api/drives/{id}/bench", { params: path })).then(() => setView({ ...v, there: false }))} />}
      </ReadingColumn>
      <Dialog open={breaking} close={() => setBreaking(false)} title="Break something">
        <p className="mb-2 text-[13.5px] text-ink-2">On the bench only. What is broken in secret is not told here; find it by what the drive does.</p>
        <ul className="grid grid-cols-2 gap-x-6 max-sm:grid-cols-1">
          {v.faults.map((f) => (
            <li key={f.key}>
              <label className="flex min-h-8 items-center gap-2 text-[13.5px]">
                <input type="checkbox" checked={v.bench.broken.includes(f.key)} onChange={(e) => act({ do: "break", what: f.key, on: e.target.checked })} /> {f.text}
              </label>
            </li>
          ))}
        </ul>
        <div className="mt-3 flex flex-wrap gap-3">
          <button className="ghost" onClick={() => act({ do: "hide", n: Math.floor(Math.random() * 1e6) })}>
            Break one in secret
          </button>
          <button className="ghost" onClick={() => v.faults.forEach((f) => act({ do: "break", what: f.key, on: false }))}>
            Mend everything
          </button>
          <button className="btn" onClick={() => setBreaking(false)}>
            Done
          </button>
        </div>
      </Dialog>
    </div>
  );
}

function Running({ v, samples, act }: { v: BenchView; samples: React.MutableRefObject<Sample[]>; act: Parameters<typeof Terminals>[0]["act"] }) {
  const [seconds, setSeconds] = useState(10);
  const [held, setHeld] = useState<number | null>(null);
  const b = v.bench;
  const figures: [string, string][] = [
    ["speed r/min", b.speed.toFixed(0)],
    ["frequency Hz", b.hz.toFixed(1)],
    ["current A", b.current.toFixed(1)],
    ["DC link V", b.link.toFixed(0)],
    ["torque N·m", b.torque.toFixed(1)],
  ];
  return (
    <>
      <ol className="mt-2 mb-2 grid grid-cols-8 max-sm:grid-cols-4" aria-label="State of the drive">
        {states.map(([key, words]) => (
          <li key={key} aria-current={b.state === key || undefined} className={`c -mr-px border border-tin-3 px-0.5 py-1.5 text-center text-[12.5px] ${b.state === key ? (key === "fault" ? "bg-stop font-semibold text-white" : "bg-ink font-semibold text-white") : "bg-tin-0 text-ink-3"}`}>
            {words}
          </li>
        ))}
      </ol>
      <div className="mb-1.5 grid grid-cols-5 gap-2.5 max-sm:grid-cols-2">
        {figures.map(([label, value]) => (
          <div key={label}>
            <div className="c text-[12px] text-ink-3">{label}</div>
            <div data-figure={label} className="n text-[32px] leading-none font-semibold">{/^-0(\.0)?$/.test(value) ? value.slice(1) : value}</div>
          </div>
        ))}
      </div>
      <LiveChart samples={samples} seconds={seconds} held={held} live={held === null} />
      <div className="mt-1 flex flex-wrap items-center gap-3 text-[12.5px]">
        <button className="act" aria-pressed={held !== null} onClick={() => setHeld(held === null ? b.time : null)}>
          {held === null ? "Hold the picture" : "Go on"}
        </button>
        {held !== null && (
          <label className="flex flex-1 items-center gap-2">
            Move along
            <input type="range" className="h-7 flex-1 accent-plum" min={Math.min(seconds, b.time)} max={b.time} step={0.5} value={held} onChange={(e) => setHeld(Number(e.target.value))} />
          </label>
        )}
        <label className="ml-auto flex items-center gap-1.5">
          Shows
          <select className="cell text !h-7 !w-24 !py-0 !text-[12.5px]" value={seconds} onChange={(e) => setSeconds(Number(e.target.value))}>
            {[10, 30, 120, 600].map((s) => (
              <option key={s} value={s}>
                {s} s
              </option>
            ))}
          </select>
        </label>
      </div>
      <div className="mt-2 grid grid-cols-[1.45fr_1fr] gap-5 max-sm:grid-cols-1">
        <Terminals view={v} act={act} />
        <Reference view={v} act={act} />
      </div>
      <Tune v={v} act={act} />
    </>
  );
}

/** Before there is a bench: what it will be made of. */
function Begin({ v, setUp }: { v: BenchView; setUp: (s: Schemas["BenchSetup"]) => void }) {
  return (
    <div className="max-w-[64ch]">
      <p className="mb-3 text-ink-2">A simulated drive with this job's settings as planned, its motor from the plate, its load as stated. It can be run, broken and tripped; nothing is wired to a machine.</p>
      {v.missing ? (
        <p className="text-stop">✕ It needs {v.missing} first.</p>
      ) : (
        <SetUp go={setUp} label="Set up the bench" />
      )}
    </div>
  );
}

function SetUp({ go, label }: { go: (s: Schemas["BenchSetup"]) => void; label: string }) {
  const [inertia, setInertia] = useState("");
  const [lines, setLines] = useState("");
  const [delivery, setDelivery] = useState(false);
  const [backstop, setBackstop] = useState(false);
  const figure = (s: string) => (s.trim() === "" ? undefined : Number(s.replace(",", ".")));
  return (
    <form
      className="grid grid-cols-2 gap-x-4 gap-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        go({ load_inertia_kgm2: figure(inertia), encoder_lines: figure(lines), delivery, backstop, seed: 1 });
      }}
    >
      <label className="lbl">
        Load inertia at the shaft, kg·m²
        <input className={`cell ${inertia ? "" : "blank"}`} value={inertia} inputMode="decimal" placeholder="usual for the load" onChange={(e) => setInertia(e.target.value)} />
      </label>
      <label className="lbl">
        Encoder, lines
        <input className={`cell ${lines ? "" : "blank"}`} value={lines} inputMode="numeric" placeholder="none, or as wanted" onChange={(e) => setLines(e.target.value)} />
      </label>
      <label className="flex items-center gap-2 text-[13.5px]">
        <input type="checkbox" checked={delivery} onChange={(e) => setDelivery(e.target.checked)} /> settings as delivered
      </label>
      <label className="flex items-center gap-2 text-[13.5px]">
        <input type="checkbox" checked={backstop} onChange={(e) => setBackstop(e.target.checked)} /> load with a backstop
      </label>
      <button className="btn col-span-full justify-self-start">{label}</button>
    </form>
  );
}

function Again({ v, setUp, end }: { v: BenchView; setUp: (s: Schemas["BenchSetup"]) => void; end: () => void }) {
  const [open, setOpen] = useState(false);
  return (
    <section className="mt-2">
      <h2>This bench</h2>
      <ul className="text-[13px] text-ink-2">
        {v.assumed.map((a) => (
          <li key={a}>– {a}</li>
        ))}
      </ul>
      <div className="flex gap-4">
        <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
          Set it up anew…
        </button>
        <button className="act" onClick={end}>
          End it
        </button>
      </div>
      {open && (
        <div className="mt-1">
          <SetUp
            label="Set up anew"
            go={(s) => {
              setOpen(false);
              setUp(s);
            }}
          />
        </div>
      )}
    </section>
  );
}

/** What the drive holds: faults with their figures, warmth, what stands in the way of a run. */
function Holds({ v }: { v: BenchView }) {
  const b = v.bench;
  const block = blocks[b.blocked];
  const last = b.trips[0];
  const row = (k: string, value: ReactNode) => (
    <div className="grid grid-cols-[1fr_auto] items-baseline gap-2 border-b border-dotted border-tin-3 py-1">
      <span className="text-ink-2">{k}</span>
      <span className="n text-[13px] font-semibold">{value}</span>
    </div>
  );
  if (!v.there) return null;
  return (
    <>
      <h2>What the drive holds</h2>
      <div>
        {row("Last fault", last ? `${last.code} ${last.text}` : "none")}
        {last && row("At that moment", `${last.hz.toFixed(1)} Hz · ${last.current.toFixed(1)} A · ${last.link.toFixed(0)} V`)}
        {b.trips[1] && row("Since the one before", `${(last!.at - b.trips[1].at).toFixed(0)} s`)}
        {row("Overload", `${b.warmth.toFixed(0)} %`)}
        {row("Winding", `${b.winding.toFixed(0)} °C`)}
        {row("Heat sink", `${b.sink.toFixed(0)} °C`)}
        {row("Shaft turned", `${b.turns.toFixed(2).replace(/^-0\.00$/, "0.00")} turns`)}
        {b.count !== 0 && row("Encoder", `${b.encoder.toFixed(0)} r/min · ${b.count.toFixed(0)}`)}
        {row("Torque off", b.torque_off.replaceAll("-", " "))}
      </div>
      <h2>Findings</h2>
      {b.damage && <Find mark="✕ stops" tone="border-stop" title="Something would be broken" text={b.damage} />}
      {b.fault && <Find mark="✕ fault" tone="border-stop" title={`${b.fault_code} ${b.fault_text}`} text="Cause first, then run command off, reset, run command on." />}
      {block && b.blocked !== "fault" && <Find mark="● do" tone="border-must" title={block[0]} text={block[1]} />}
      {b.limiting === "current" && <Find mark="▲ look again" tone="border-warn-bar" title="The current limit holds the ramp" text="The rise takes longer than it is set to." />}
      {b.limiting === "link" && <Find mark="▲ look again" tone="border-warn-bar" title="The DC link holds the fall" text="The fall takes longer than it is set to: the load's energy has nowhere to go." />}
      {b.warning && <Find mark="▲ look again" tone="border-warn-bar" title={`Warning: ${b.warning.replaceAll("-", " ")}`} text="It trips if this goes on." />}
      {b.broken.length > 0 && <Find mark="– note" tone="border-tin-4" title="Broken on this bench" text={v.faults.filter((f) => b.broken.includes(f.key)).map((f) => f.text).join(", ")} />}
      {b.hidden > 0 && <Find mark="– note" tone="border-tin-4" title="Something is broken, and not told" text="Find it by what the drive does; mend everything shows nothing either." />}
      {!b.damage && !b.fault && !block && !b.limiting && !b.warning && b.broken.length === 0 && b.hidden === 0 && <p className="text-ink-3">Nothing to say.</p>}
    </>
  );
}

function Find({ mark, tone, title, text }: { mark: string; tone: string; title: string; text: string }) {
  return (
    <div className={`mb-2 border-l-[5px] bg-white px-3 py-2 ${tone}`}>
      <span className="c float-right border border-tin-3 px-1.5 text-[12px]">{mark}</span>
      <b className="text-[14px]">{title}</b>
      <p className="text-[13px] text-ink-2">{text}</p>
    </div>
  );
}
