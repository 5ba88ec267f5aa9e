import { useEffect, useState } from "react";
import { api, ok } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { Foot } from "../ui/Foot";
import { ReadingColumn } from "../ui/Reading";
import { BesideButton } from "./Beside";
import { Breaking } from "./Breaking";
import { Holds } from "./Holds";
import { LiveChart } from "./LiveChart";
import type { BenchView, Sample } from "./live";
import { Again, Begin } from "./SetUp";
import { Controller } from "./Controller";
import { Reference, Terminals } from "./Terminals";
import { Kept, Trace } from "./Traces";
import { Tune } from "./Tune";
import { useBench, type BenchAct } from "./useBench";
import { states } from "./words";

/** A simulated drive, motor and load out of this job's own figures. Nothing here is wired to a machine. */
export function Bench() {
  const { view, act: send } = useDesk();
  const { v, samples, act, setUp, end, error } = useBench();
  const [breaking, setBreaking] = useState(false);
  const [opened, setOpened] = useState<{ name: string; samples: Sample[] } | null>(null);
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
  if (!v) return <p className="p-6">{error || "Reading…"}</p>;
  return (
    <div className="split">
      <main className="flex min-h-0 flex-col">
        <div className="min-h-0 flex-1 overflow-y-auto px-5 pt-3 pb-4">
          <div className="flex flex-wrap items-baseline gap-3">
            <h1>Bench</h1>
            {v.there && (
              <span className="c text-ink-2">
                answers Modbus TCP on <span className="n text-[12.5px]">{v.address}</span> ·{" "}
                <span className="n text-[12.5px]">{faster}</span> × real time
              </span>
            )}
            <BesideButton />
          </div>
          {opened ? (
            <Trace name={opened.name} samples={opened.samples} close={() => setOpened(null)} />
          ) : v.there ? (
            <Running v={v} samples={samples} act={act} />
          ) : (
            <Begin v={v} setUp={setUp} />
          )}
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
            <button
              className="ghost"
              onClick={() =>
                void send(() =>
                  ok(
                    api.POST("/api/drives/{id}/bench/traces", {
                      params: { path: { id: view.id } },
                      body: { id: newId(), name: `bench run of ${v.bench.time.toFixed(0)} s` },
                    }),
                  ),
                )
              }
            >
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
        {v.there && <Again v={v} setUp={setUp} end={end} />}
      </ReadingColumn>
      <Breaking v={v} act={act} open={breaking} close={() => setBreaking(false)} />
    </div>
  );
}

function Running({ v, samples, act }: { v: BenchView; samples: React.MutableRefObject<Sample[]>; act: BenchAct }) {
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
          <li
            key={key}
            aria-current={b.state === key || undefined}
            className={`c -mr-px border border-tin-3 px-0.5 py-1.5 text-center text-[12.5px] ${b.state === key ? (key === "fault" ? "bg-stop font-semibold text-white" : "bg-ink font-semibold text-white") : "bg-tin-0 text-ink-3"}`}
          >
            {words}
          </li>
        ))}
      </ol>
      <div className="mb-1.5 grid grid-cols-[1fr_1fr_1.3fr_1.3fr_1fr] gap-2.5 max-sm:grid-cols-2">
        {figures.map(([label, value]) => (
          <div key={label}>
            <div className="c text-[12px] text-ink-3">{label}</div>
            <div data-figure={label} className="n text-[32px] leading-none font-semibold">
              {/^-0(\.0)?$/.test(value) ? value.slice(1) : value}
            </div>
            {label === "current A" && (
              <Clamped
                name="Each phase to the motor"
                amps={[
                  ["U", b.phases[0]],
                  ["V", b.phases[1]],
                  ["W", b.phases[2]],
                ]}
              />
            )}
            {label === "DC link V" && (
              <Clamped
                name="Each phase of the mains"
                amps={[
                  ["L1", b.lines[0]],
                  ["L2", b.lines[1]],
                  ["L3", b.lines[2]],
                ]}
              />
            )}
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
            <input
              type="range"
              className="h-7 flex-1 accent-plum"
              min={Math.min(seconds, b.time)}
              max={b.time}
              step={0.5}
              value={held}
              onChange={(e) => setHeld(Number(e.target.value))}
            />
          </label>
        )}
        <label className="ml-auto flex items-center gap-1.5">
          Shows
          <select
            className="cell text !h-7 !w-24 !py-0 !text-[12.5px]"
            value={seconds}
            onChange={(e) => setSeconds(Number(e.target.value))}
          >
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
        <Controller view={v} act={act} />
        <Reference view={v} act={act} />
      </div>
      <Tune v={v} act={act} />
    </>
  );
}

/** What a clamp meter reads, lead by lead. */
function Clamped({ name, amps }: { name: string; amps: (readonly [string, number | undefined])[] }) {
  return (
    <ul
      aria-label={name}
      title="A rms, as a clamp meter reads them"
      className="c mt-0.5 flex gap-x-1.5 text-[12px] whitespace-nowrap text-ink-2"
    >
      {amps.map(([lead, a]) => (
        <li key={lead}>
          {lead} <span className="n ml-0.5">{(a ?? 0).toFixed(1)}</span>
        </li>
      ))}
    </ul>
  );
}
