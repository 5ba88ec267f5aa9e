import { useState } from "react";
import type { Schemas } from "../app/client";
import type { BenchView } from "./live";

/** Before there is a bench: what it will be made of. */
export function Begin({ v, setUp }: { v: BenchView; setUp: (s: Schemas["BenchSetup"]) => void }) {
  return (
    <div className="max-w-[64ch]">
      <p className="mb-3 text-ink-2">
        A simulated drive with this job's settings as planned, its motor from the plate, its load as stated. It can be run, broken and
        tripped; nothing is wired to a machine.
      </p>
      {v.missing ? <p className="text-stop">✕ It needs {v.missing} first.</p> : <SetUp go={setUp} label="Set up the bench" />}
    </div>
  );
}

function SetUp({ go, label }: { go: (s: Schemas["BenchSetup"]) => void; label: string }) {
  const [inertia, setInertia] = useState("");
  const [lines, setLines] = useState("");
  const [swing, setSwing] = useState("");
  const [bars, setBars] = useState(false);
  const [delivery, setDelivery] = useState(false);
  const [backstop, setBackstop] = useState(false);
  const figure = (s: string) => (s.trim() === "" ? undefined : Number(s.replace(",", ".")));
  return (
    <form
      className="grid grid-cols-2 gap-x-4 gap-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        go({
          load_inertia_kgm2: figure(inertia),
          encoder_lines: figure(lines),
          shaft_hz: figure(swing),
          deep_bars: bars,
          delivery,
          backstop,
          seed: 1,
        });
      }}
    >
      <label className="lbl">
        Load inertia at the shaft, kg·m²
        <input
          className={`cell ${inertia ? "" : "blank"}`}
          value={inertia}
          inputMode="decimal"
          placeholder="usual for the load"
          onChange={(e) => setInertia(e.target.value)}
        />
      </label>
      <label className="lbl">
        Encoder, lines
        <input
          className={`cell ${lines ? "" : "blank"}`}
          value={lines}
          inputMode="numeric"
          placeholder="none, or as wanted"
          onChange={(e) => setLines(e.target.value)}
        />
      </label>
      <label className="lbl">
        Shaft swings at, Hz
        <input
          className={`cell ${swing ? "" : "blank"}`}
          value={swing}
          inputMode="decimal"
          placeholder="stiff"
          onChange={(e) => setSwing(e.target.value)}
        />
      </label>
      <label className="flex items-center gap-2 self-end pb-1 text-[13.5px]">
        <input type="checkbox" checked={bars} onChange={(e) => setBars(e.target.checked)} /> rotor with deep bars
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

export function Again({ v, setUp, end }: { v: BenchView; setUp: (s: Schemas["BenchSetup"]) => void; end: () => void }) {
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
