import type { BenchView } from "./live";
import { Lever, Slider } from "./Terminals";
import type { BenchAct } from "./useBench";

/** What a controller sends over the network; nothing where the drive does not listen to one. */
export function Controller({ view, act }: { view: BenchView; act: BenchAct }) {
  const b = view.bench;
  if (b.command !== "network" && b.source !== "network") return null;
  return (
    <section aria-label="Network" className="text-[13px]">
      <h3 className="mb-0.5 text-[14px]">Network</h3>
      <Lever name="Telegrams" does="come" on={b.net.alive} tick={b.tick} turn={(on) => act({ do: "net", on })} />
      {b.command === "network" && (
        <>
          <Lever name="Run" does="forward" on={b.net.run && !b.net.back} tick={b.tick} turn={(on) => act({ do: "net-run", on })} />
          <Lever
            name="Run"
            does="back"
            on={b.net.run && b.net.back}
            tick={b.tick}
            turn={(on) => act({ do: "net-run", on, what: "back" })}
          />
        </>
      )}
      <label className="mt-1 flex items-center gap-3">
        <span className="w-20">Speed</span>
        <Slider top={60} step={0.5} value={b.net.hz} tick={b.tick} put={(value) => act({ do: "net-speed", value })} />
        <span className="n w-20 text-right font-semibold">{b.net.hz.toFixed(1)} Hz</span>
      </label>
    </section>
  );
}
