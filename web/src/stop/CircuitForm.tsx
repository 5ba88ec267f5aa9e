import { useState } from "react";
import { say, sendBytes, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { useHere, usePlaceEdit } from "../app/place";

type Circuit = Schemas["StopCircuit"];

const devices: [string, string][] = [
  ["emergency-stop", "emergency stop"],
  ["guard", "guard"],
  ["reset-guard", "guard, own reset outside"],
  ["light-curtain", "light curtain"],
  ["key", "key switch"],
];

/**
 * The circuit of the place that takes this drive's torque off: what it is built of, and what the responsible person gave. Saved field by
 * field.
 */
export function CircuitForm({ id, own }: { id: string; own: boolean }) {
  const { place } = useHere();
  const { refresh } = useDesk();
  const change = usePlaceEdit();
  const [error, setError] = useState("");
  const c = place.place.circuits?.[id] as Circuit | undefined;
  if (!c) return null;
  const set = async (path: string, text: string) => {
    setError("");
    try {
      await change([{ path: `circuits.${id}.${path}`, text }]);
      refresh();
      return true;
    } catch (e) {
      setError(say(e));
      return false;
    }
  };
  const marks = Object.keys(c.devices ?? {}).sort((a, b) => a.localeCompare(b, undefined, { numeric: true }));
  const next = () => `S${Math.max(0, ...marks.map((m) => Number(m.replace(/\D/g, "")) || 0)) + 1}`;
  const text = (path: keyof Circuit, label: string, hint = "") => (
    <Typed key={`${id}${path}`} label={label} hint={hint} value={shown(c[path])} set={(v) => set(path, v)} field={`circuits.${path}`} />
  );
  const pick = (path: keyof Circuit, label: string, options: [string, string][]) => (
    <label>
      <span className="lbl">{label}</span>
      <select className="cell text" data-circuit={path} value={shown(c[path])} onChange={(e) => void set(path, e.target.value)}>
        <option value="">–</option>
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
  const tick = (path: keyof Circuit, words: string) => (
    <label className="flex items-end gap-2 pb-1.5 text-[13.5px]">
      <input type="checkbox" checked={!!c[path]} onChange={(e) => void set(path, e.target.checked ? "true" : "")} /> {words}
    </label>
  );
  return (
    <div className="col-span-full border-t border-tin-2 pt-2.5">
      <div className="grid grid-cols-4 gap-2.5 max-sm:grid-cols-2">
        {text("name", "Name of the circuit")}
        {pick("kind", "Built as", [
          ["two-channel", "two channels"],
          ["controller", "controller"],
          ["one-channel", "one channel"],
        ])}
        {pick("feed", "Channels fed", [
          ["pulsed", "test pulses"],
          ["two", "two potentials"],
          ["one", "one potential"],
        ])}
        {pick("reset", "Its reset acts", [
          ["let-go", "when let go"],
          ["pressed", "when pressed"],
          ["automatic", "by itself"],
        ])}
        {text("reset_at", "Its reset stands", "outside, with a view")}
        {pick("contactors", "Contactors, fed back", [
          ["0", "none"],
          ["1", "one"],
          ["2", "two"],
        ])}
        {pick("lamps", "Lamps", [
          ["none", "none"],
          ["two", "two"],
          ["three", "three"],
        ])}
        {text("delay", "Outputs delayed, s", "none")}
        {pick("supply", "24 V from", [
          ["outside", "outside"],
          ["drive", "the drive"],
        ])}
        {pick("commons", "0 V of the channels", [
          ["linked", "linked"],
          ["split", "split"],
        ])}
        {text("drives", "All its drives, by tag", "this one only")}
        {pick(
          "aux",
          "Enabling contacts",
          ["0", "1", "2", "3", "4"].map((v) => [v, v === "0" ? "none" : v]),
        )}
        {text("start_delay", "Start delayed, s", "none")}
        {text("out_pulse", "Test pulses on outputs", "none; 1 ms")}
        {tick("status", "Drives' status fed back")}
        {tick("fuse", "Fuse in its plus")}
        {tick("interlock", "Interlock input of its own contact")}
        {tick("jumper", "Factory links still in")}
      </div>
      {own ? (
        <p className="mt-2 text-[13px] text-ink-2">
          A circuit that was taken in takes the place of the drawing.{" "}
          <button className="act" onClick={() => void set("own", "")}>
            Back to the drawing
          </button>
        </p>
      ) : (
        <table className="list mt-2.5 w-full" aria-label="Devices of the circuit">
          <thead>
            <tr>
              <th className="w-16">Mark</th>
              <th>Where it stands</th>
              <th className="w-56">What it is</th>
              <th className="w-20" />
            </tr>
          </thead>
          <tbody>
            {marks.map((m) => (
              <tr key={m} data-device={m}>
                <td className="n font-semibold">{m}</td>
                <td>
                  <Typed
                    label={`Where ${m} stands`}
                    bare
                    value={c.devices![m]!.name ?? ""}
                    set={(v) => set(`devices.${m}.name`, v)}
                    field={`devices.${m}.name`}
                  />
                </td>
                <td>
                  <select
                    className="cell text"
                    aria-label={`What ${m} is`}
                    value={c.devices![m]!.kind ?? ""}
                    onChange={(e) => void set(`devices.${m}.kind`, e.target.value)}
                  >
                    {devices.map(([v, words]) => (
                      <option key={v} value={v}>
                        {words}
                      </option>
                    ))}
                  </select>
                </td>
                <td>
                  <button
                    className="act"
                    onClick={() =>
                      void change([
                        { path: `circuits.${id}.devices.${m}.name`, text: "" },
                        { path: `circuits.${id}.devices.${m}.kind`, text: "" },
                      ])
                        .then(refresh)
                        .catch((e: unknown) => setError(say(e)))
                    }
                  >
                    take out
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <div className="mt-1.5 flex flex-wrap items-center gap-x-5 gap-y-1 text-[13px]">
        {!own && (
          <button className="act" onClick={() => void set(`devices.${next()}.kind`, "emergency-stop")}>
            Add a device
          </button>
        )}
        <TakeIn />
      </div>
      <h3 className="mt-3 text-[13.5px]">As the responsible person gave it</h3>
      <div className="mt-1 grid grid-cols-4 gap-2.5 max-sm:grid-cols-2">
        {text("by", "Who is responsible")}
        {text("paper", "Their document, issue")}
        {pick(
          "category",
          "Category",
          ["B", "1", "2", "3", "4"].map((v) => [v, v]),
        )}
        {text("next", "Next proof test", "2027-05")}
        {pick("required", "PL required", levels)}
        {pick("reached", "PL reached", levels)}
        {text("mttfd", "MTTFd of a channel, years")}
        {text("dc", "Diagnostic coverage, %")}
        {text("ccf", "Points, common causes")}
        {text("distance", "Distance to the hazard", "900 mm")}
        {pick("approach", "Device, ISO 13855", [
          ["interlock-or-other", "interlock or other"],
          ["vertical-field", "upright field"],
          ["parallel-field", "lying field"],
          ["two-hand", "two-hand"],
        ])}
        {text("stop_time", "Whole stopping time, s")}
        {c.approach?.endsWith("field") && text("resolution", "Resolution, mm")}
        {c.kind === "controller" && text("program", "Program")}
        {c.kind === "controller" && text("checksum", "Its checksum")}
      </div>
      {error && <p className="mt-1 text-stop">✕ {error}</p>}
    </div>
  );
}

const levels: [string, string][] = ["a", "b", "c", "d", "e"].map((v) => [v, v]);

function shown(v: unknown): string {
  if (v && typeof v === "object" && "text" in v) return (v as { text: string }).text;
  return typeof v === "string" ? v : "";
}

/** A field of the place: kept as typed, saved when it is left or with Enter; what was refused stays in the field. */
function Typed({
  label,
  value,
  set,
  hint = "",
  bare,
  field,
}: {
  label: string;
  value: string;
  set: (v: string) => Promise<boolean>;
  hint?: string;
  bare?: boolean;
  field: string;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const save = () => {
    if (typed === null || typed === value) return setTyped(null);
    void set(typed).then((done) => done && setTyped(null));
  };
  return (
    <label>
      <span className={bare ? "sr-only" : "lbl"}>{label}</span>
      <input
        className="cell text"
        data-circuit={field.replace(/^circuits\./, "")}
        value={typed ?? value}
        placeholder={hint}
        autoComplete="off"
        onChange={(e) => setTyped(e.target.value)}
        onBlur={save}
      />
    </label>
  );
}

/** The circuit goes out as a file and comes back changed. */
function TakeIn() {
  const { view, refresh } = useDesk();
  const [bad, setBad] = useState("");
  return (
    <>
      <a className="act" href={`/api/drives/${view.id}/stop.json`}>
        Circuit (JSON)
      </a>
      <label className="flex items-center gap-2">
        Take a circuit in
        <input
          type="file"
          accept=".json"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            setBad("");
            if (file)
              void sendBytes<Schemas["StopView"]>(`/api/drives/${view.id}/stop`, file, "text/plain")
                .then(refresh)
                .catch((x: unknown) => setBad(say(x)));
          }}
        />
      </label>
      {bad && <span className="text-stop">✕ {bad}</span>}
    </>
  );
}
