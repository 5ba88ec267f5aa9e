import type { BenchView } from "./live";
import type { BenchAct } from "./useBench";
import { useMine } from "./useMine";

/** A switch with its name: on is said by word, place and colour. */
export function Lever({
  name,
  does,
  on,
  tick,
  turn,
}: {
  name: string;
  does: string;
  on: boolean;
  tick: number;
  turn: (on: boolean) => Promise<number | null>;
}) {
  const [stands, put] = useMine(on, tick);
  return (
    <button
      role="switch"
      aria-checked={stands}
      aria-label={`${name} ${does}`}
      className="flex h-[29px] w-full items-center gap-2 border-b border-tin-2 text-left text-[13px]"
      onClick={() => {
        put(!stands, turn(!stands));
      }}
    >
      <span className="n shrink-0 font-semibold">{name}</span>
      <span className="c flex-1 truncate text-ink-2">{does}</span>
      <span className="c text-[11px] text-ink-3">{stands ? "on" : "off"}</span>
      <span aria-hidden="true" className={`relative h-4 w-[34px] border ${stands ? "border-good bg-good-0" : "border-tin-4 bg-tin-2"}`}>
        <i className={`absolute top-px h-3 w-3.5 ${stands ? "right-px bg-good" : "left-px bg-ink-3"}`} />
      </span>
    </button>
  );
}

/** What stands on the drive's terminals, as switches; the channels of torque off apart. */
export function Terminals({ view, act }: { view: BenchView; act: BenchAct }) {
  const b = view.bench;
  return (
    <section aria-label="Terminals">
      <h3 className="mb-0.5 text-[14px]">Terminals</h3>
      <div className="grid grid-cols-2 gap-x-4 max-sm:grid-cols-1">
        <div>
          {b.inputs.length === 0 && (
            <p className="text-[13px] text-ink-2">
              The family's file lists no terminals. Run it in hand, or take a newer file of the family.
            </p>
          )}
          {b.inputs.map((t, i) => (
            <Lever
              key={t.terminal}
              name={t.terminal}
              does={t.does}
              on={t.on}
              tick={b.tick}
              turn={(on) => act({ do: "terminal", n: i + 1, on })}
            />
          ))}
        </div>
        <div>
          <Lever name="Mains" does="supply" on={b.line} tick={b.tick} turn={(on) => act({ do: "line", on })} />
          <Lever
            name="A and B"
            does="torque off"
            on={b.channel_a && b.channel_b}
            tick={b.tick}
            turn={(on) => act({ do: "channel", n: 3, on })}
          />
          <Lever name="A" does="alone" on={b.channel_a} tick={b.tick} turn={(on) => act({ do: "channel", n: 1, on })} />
          <Lever name="B" does="alone" on={b.channel_b} tick={b.tick} turn={(on) => act({ do: "channel", n: 2, on })} />
          <Lever name="Load" does="coupled" on={b.coupled} tick={b.tick} turn={(on) => act({ do: "couple", on })} />
          {b.brake_by === "apart" && (
            <Lever
              name="Brake"
              does="opened by its own supply"
              on={b.brake === "open"}
              tick={b.tick}
              turn={(on) => act({ do: "brake", on })}
            />
          )}
          {b.brake_by === "drive" && (
            <p className="flex h-[27px] items-center gap-2 border-b border-tin-2 text-[13px]">
              <span className="n shrink-0 font-semibold">Brake</span>
              <span className="c flex-1 truncate text-ink-2">opened by the drive</span>
              <span className={`c text-[12px] font-semibold ${b.brake === "open" ? "text-ink" : "text-ink-3"}`}>
                {b.brake === "open" ? "○ open" : b.brake === "closed" ? "● closed" : "moving"}
              </span>
            </p>
          )}
          {b.relays.map((t) => (
            <p key={t.terminal} className="flex h-[27px] items-center gap-2 border-b border-tin-2 text-[13px]">
              <span className="n shrink-0 font-semibold">{t.terminal}</span>
              <span className="c flex-1 truncate text-ink-2">shows {t.does}</span>
              <span className={`c text-[12px] font-semibold ${t.on ? "text-ink" : "text-ink-3"}`}>{t.on ? "● closed" : "○ open"}</span>
            </p>
          ))}
        </div>
      </div>
    </section>
  );
}

/** Stays where the hand has put it until the bench says the same. */
export function Slider({
  top,
  step,
  value,
  tick,
  put,
}: {
  top: number;
  step: number;
  value: number;
  tick: number;
  put: (v: number) => Promise<number | null>;
}) {
  const [stands, move] = useMine(value, tick);
  return (
    <input
      type="range"
      className="h-7 flex-1 accent-plum"
      min={0}
      max={top}
      step={step}
      value={stands}
      onChange={(e) => {
        const v = Number(e.target.value);
        move(v, put(v));
      }}
    />
  );
}

/** The speed that is asked for: at the analog input, or at the keypad. */
export function Reference({ view, act }: { view: BenchView; act: BenchAct }) {
  const b = view.bench;
  const keys = b.hand || b.command === "keypad";
  return (
    <section aria-label="Reference" className="text-[13px]">
      <h3 className="mb-1 text-[14px]">Reference</h3>
      <label className="flex items-center gap-3">
        <span className="w-20">Analog input</span>
        <Slider top={b.analog_top} step={b.analog_top / 200} value={b.analog} tick={b.tick} put={(value) => act({ do: "analog", value })} />
        <span className="n w-20 text-right font-semibold">
          {b.analog.toFixed(2)} {b.analog_unit}
        </span>
      </label>
      <label className="mt-1 flex items-center gap-3">
        <span className="w-20">Keypad</span>
        <Slider top={60} step={0.5} value={b.key_hz} tick={b.tick} put={(value) => act({ do: "speed", value })} />
        <span className="n w-20 text-right font-semibold">{b.key_hz.toFixed(1)} Hz</span>
      </label>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <button className="ghost !px-3 !py-1" disabled={!keys} onClick={() => act({ do: "run" })}>
          Run
        </button>
        <button className="ghost !px-3 !py-1" disabled={!keys} onClick={() => act({ do: "reverse" })}>
          Run back
        </button>
        <button className="ghost !px-3 !py-1" onClick={() => act({ do: "stop" })}>
          Halt
        </button>
        <button className="ghost !px-3 !py-1" onClick={() => act({ do: "reset" })}>
          Reset
        </button>
        <button className="ghost !px-3 !py-1" aria-pressed={b.hand} onClick={() => act({ do: "hand", on: !b.hand })}>
          {b.hand ? "In hand" : "In auto"}
        </button>
      </div>
      <p className="c mt-1.5 text-[12px] text-ink-3">
        Run from {b.command}, speed from {b.source}
        {b.hand ? "; in hand the keypad has both" : keys ? "" : "; its keys run it in hand only"}.{" "}
        {b.control === "volts-per-hertz"
          ? "Volts per hertz."
          : b.control === "encoder"
            ? "Vector with encoder."
            : "Vector without encoder."}
      </p>
    </section>
  );
}
