import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { textAt, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { typed as asTyped } from "../app/typed";

type Shape = Schemas["InertiaIn"]["shape"];
type Key = Exclude<keyof Schemas["InertiaIn"], "shape" | "$schema">;

const shapes: [Shape, string, [Key, string][]][] = [
  [
    "cylinder",
    "cylinder, roll",
    [
      ["mass_kg", "Mass, kg"],
      ["radius_m", "Radius, m"],
      ["inner_radius_m", "Inner radius, m"],
    ],
  ],
  [
    "drum",
    "drum with what it carries",
    [
      ["mass_kg", "Shell, kg"],
      ["radius_m", "Radius, m"],
      ["carried_mass_kg", "Carried, kg"],
    ],
  ],
  [
    "fan",
    "fan's impeller",
    [
      ["mass_kg", "Mass, kg"],
      ["radius_m", "Radius, m"],
    ],
  ],
  [
    "belt",
    "belt, conveyor",
    [
      ["carried_mass_kg", "Moved, kg"],
      ["radius_m", "Pulley's radius, m"],
    ],
  ],
  [
    "screw",
    "screw, spindle",
    [
      ["carried_mass_kg", "Moved, kg"],
      ["lead_m", "Lead, m a turn"],
    ],
  ],
  [
    "winch",
    "winch, hoist",
    [
      ["carried_mass_kg", "On the rope, kg"],
      ["radius_m", "Drum's radius, m"],
      ["mass_kg", "Drum, kg"],
    ],
  ],
  [
    "coast-down",
    "measured: coasting down",
    [
      ["torque_nm", "Load's torque, N·m"],
      ["from_rpm", "From, r/min"],
      ["to_rpm", "to, r/min"],
      ["time_s", "in, s"],
    ],
  ],
  [
    "acceleration",
    "measured: speeding up",
    [
      ["torque_nm", "Motor's less load's, N·m"],
      ["from_rpm", "From, r/min"],
      ["to_rpm", "to, r/min"],
      ["time_s", "in, s"],
    ],
  ],
];

const empty = {
  mass_kg: null,
  radius_m: null,
  inner_radius_m: null,
  carried_mass_kg: null,
  lead_m: null,
  gear_ratio: null,
  torque_nm: null,
  from_rpm: null,
  to_rpm: null,
  time_s: null,
  band_pct: null,
};

/** The load's inertia out of a body's figures, or out of a measured change of speed; taken over with its band. */
export function InertiaHelper() {
  const { view, saver } = useDesk();
  const [open, setOpen] = useState(false);
  const [shape, setShape] = useState<Shape>("cylinder");
  const [typed, setTyped] = useState<Partial<Record<Key, string>>>({});
  const [found, setFound] = useState<Schemas["LoadInertia"]>();
  const [bad, setBad] = useState("");
  const fields = shapes.find(([k]) => k === shape)![2];
  async function work() {
    setBad("");
    setFound(undefined);
    const body: Schemas["InertiaIn"] = { shape, ...empty };
    for (const key of [...fields.map(([k]) => k), "gear_ratio"] as Key[]) {
      const text = (typed[key] ?? "").trim().replace(",", ".");
      if (text === "") continue;
      const v = Number(text);
      if (!Number.isFinite(v)) return setBad(`${fields.find(([k]) => k === key)?.[1] ?? key}: got ${text}, want a number`);
      body[key] = v;
    }
    try {
      setFound(await ok(api.POST("/api/drives/{id}/span/inertia", { params: { path: { id: view.id } }, body })));
    } catch (e) {
      setBad(say(e));
    }
  }
  function take(f: Schemas["LoadInertia"]) {
    for (const [path, text] of [
      ["intent.load_inertia", `${asTyped(f.load_kgm2, 4)} kg·m²`],
      ["intent.inertia_band", `${Math.ceil(f.band_pct)} %`],
    ] as const) {
      saver.begin(path, textAt(view, path));
      saver.put(path, text, newId());
    }
    setOpen(false);
  }
  const field = (key: Key, label: string, hint = "") => (
    <label key={key}>
      <span className="lbl">{label}</span>
      <input
        className="cell"
        inputMode="decimal"
        data-inertia={key}
        value={typed[key] ?? ""}
        placeholder={hint}
        onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
      />
    </label>
  );
  return (
    <div className="col-span-full">
      <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Work the inertia out…"}
      </button>
      {open && (
        <form
          className="mt-1.5 grid grid-cols-4 items-end gap-2.5 border border-tin-3 bg-white p-3 max-sm:grid-cols-2"
          aria-label="Inertia"
          onSubmit={(e) => {
            e.preventDefault();
            void work();
          }}
        >
          <label className="col-span-2">
            <span className="lbl">It is a</span>
            <select
              className="cell text"
              data-inertia="shape"
              value={shape}
              onChange={(e) => (setShape(e.target.value as Shape), setFound(undefined))}
            >
              {shapes.map(([k, words]) => (
                <option key={k} value={k}>
                  {words}
                </option>
              ))}
            </select>
          </label>
          {field("gear_ratio", "Motor turns for one of it", "1")}
          <span />
          {fields.map(([k, label]) => field(k, label))}
          <button className="ghost">Work out</button>
          {bad && <p className="col-span-full text-[13px] text-stop">✕ {bad}</p>}
          {found && (
            <p className="col-span-full text-[13.5px]" role="status">
              <b className="n">{found.load_kgm2.toPrecision(3)} kg·m²</b> at the motor, {found.times_rotor.toPrecision(2)} times a usual
              rotor; from {found.low_kgm2.toPrecision(3)} to {found.high_kgm2.toPrecision(3)}.
              {found.rotor_kgm2 > 0 && ` The rotor's own ${found.rotor_kgm2.toPrecision(2)} is taken off.`}{" "}
              <button type="button" className="act" onClick={() => take(found)}>
                Take it
              </button>
            </p>
          )}
        </form>
      )}
    </div>
  );
}
