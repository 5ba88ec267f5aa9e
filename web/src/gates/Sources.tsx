import { useState } from "react";
import { say } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere, usePlaceEdit } from "../app/place";

const kinds: [string, string][] = [
  ["mains", "mains"],
  ["control", "control supply"],
  ["dc-link", "shared DC link"],
  ["brake", "brake supply"],
  ["heater", "heater"],
  ["relay-contact", "through relay contacts"],
  ["motor", "motor that can be driven"],
];
const earthings: [string, string][] = [
  ["tn", "TN"],
  ["tt", "TT"],
  ["it", "IT"],
  ["corner-earthed", "corner-earthed"],
];

/** Every source that feeds the drive, with what opens it: entered once for the place, ticked for the drive. */
export function Sources() {
  const { place } = useHere();
  const { view, saver, refresh, setNotice } = useDesk();
  const change = usePlaceEdit();
  const [more, setMore] = useState(false);
  const supplies = Object.entries(place.place.supplies ?? {});
  const fed = view.drive.supplies ?? {};
  async function edit(sets: { path: string; text: string }[]) {
    try {
      await change(sets);
      setNotice("");
      refresh();
      return true;
    } catch (e) {
      setNotice(say(e));
      return false;
    }
  }
  async function add(name: string) {
    const id = newId();
    if (await edit([{ path: `supplies.${id}.name`, text: name }]))
      await saver.all([{ path: `supplies.${id}`, text: "true" }], "feeds this drive");
  }
  return (
    <section className="noprint mb-3.5 border border-tin-3 bg-tin-0 px-3.5 pt-1.5 pb-3">
      <h3 className="mb-1 flex items-baseline justify-between text-[14px]">
        Sources
        <button className="act" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "close" : "change"}
        </button>
      </h3>
      {!more && (
        <p className="text-[13px] text-ink-2">
          {supplies
            .filter(([id]) => fed[id])
            .map(([, s]) => `${s.name}${s.isolator ? `, opened by ${s.isolator}` : ""}`)
            .join(" · ") || "Nothing is named yet: name what feeds this drive."}
        </p>
      )}
      {(more || supplies.length === 0) && (
        <>
          {supplies.map(([id, s]) => (
            <fieldset key={id} className="mb-2 border-t border-tin-2 pt-1.5">
              <legend className="sr-only">{s.name}</legend>
              <div className="grid grid-cols-12 gap-2 max-sm:grid-cols-4">
                <label className="col-span-3 flex items-center gap-2 pt-5">
                  <input
                    type="checkbox"
                    checked={!!fed[id]}
                    onChange={(e) =>
                      void saver
                        .all(
                          [{ path: `supplies.${id}`, text: e.target.checked ? "true" : "false" }],
                          e.target.checked ? "feeds this drive" : "does not feed it",
                        )
                        .then(refresh)
                    }
                  />
                  <b className="font-semibold">{s.name}</b>
                </label>
                <Pick
                  label="Kind"
                  value={s.kind ?? ""}
                  options={kinds}
                  set={(text) => void edit([{ path: `supplies.${id}.kind`, text }])}
                />
                <Text label="Volts" value={s.voltage?.text ?? ""} set={(text) => void edit([{ path: `supplies.${id}.voltage`, text }])} />
                <Text label="Hz" value={s.frequency?.text ?? ""} set={(text) => void edit([{ path: `supplies.${id}.frequency`, text }])} />
                <Pick
                  label="Phases"
                  value={s.phases ?? ""}
                  options={[
                    ["1", "1"],
                    ["3", "3"],
                  ]}
                  set={(text) => void edit([{ path: `supplies.${id}.phases`, text }])}
                />
                <Pick
                  label="Earthing"
                  value={s.earthing ?? ""}
                  options={earthings}
                  set={(text) => void edit([{ path: `supplies.${id}.earthing`, text }])}
                />
                <Text
                  label="Opened by"
                  wide
                  value={s.isolator ?? ""}
                  set={(text) => void edit([{ path: `supplies.${id}.isolator`, text }])}
                />
                <Text
                  label="Where that stands"
                  wide
                  value={s.isolator_at ?? ""}
                  set={(text) => void edit([{ path: `supplies.${id}.isolator_at`, text }])}
                />
                <Text
                  label="Short-circuit current at the drive, kA"
                  wide
                  value={s.fault_current?.text ?? ""}
                  set={(text) => void edit([{ path: `supplies.${id}.fault_current`, text }])}
                />
                <Text
                  label="Arc energy at the drive, and distance"
                  wide
                  value={s.arc ?? ""}
                  set={(text) => void edit([{ path: `supplies.${id}.arc`, text }])}
                />
              </div>
            </fieldset>
          ))}
          <form
            className="mt-2 flex gap-2"
            onSubmit={(e) => {
              e.preventDefault();
              const f = new FormData(e.currentTarget);
              const name = (f.get("name") as string).trim();
              if (name) void add(name);
              e.currentTarget.reset();
            }}
          >
            <input
              name="name"
              className="cell text"
              placeholder="name another source: control supply, heater, shared DC link …"
              aria-label="Name of another source"
            />
            <button className="ghost">Add</button>
          </form>
        </>
      )}
    </section>
  );
}

function Text({ label, value, set, wide }: { label: string; value: string; set: (v: string) => void; wide?: boolean }) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && typed !== value) set(typed);
    setTyped(null);
  };
  return (
    <label className={wide ? "col-span-3" : "col-span-2"}>
      <span className="lbl">{label}</span>
      <input className="cell text" value={typed ?? value} onChange={(e) => setTyped(e.target.value)} onBlur={keep} />
    </label>
  );
}

function Pick({ label, value, options, set }: { label: string; value: string; options: [string, string][]; set: (v: string) => void }) {
  return (
    <label className="col-span-2">
      <span className="lbl">{label}</span>
      <select className="cell text" value={value} onChange={(e) => set(e.target.value)}>
        <option value="">–</option>
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}
