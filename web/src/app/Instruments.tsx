import { useState, useSyncExternalStore } from "react";
import { Dialog } from "../ui/Dialog";
import { say, type Schemas } from "./client";
import { newId } from "./ids";
import { useHere, usePlaceEdit } from "./place";

type Instrument = Schemas["Instrument"];

export const roles: [string, string][] = [
  ["meter", "Meter"],
  ["insulation-tester", "Insulation tester"],
  ["torque-wrench", "Torque wrench"],
];
const measures: [string, string][] = [
  ["automatic", "AC and DC, finds out which by itself"],
  ["ac-and-dc", "AC and DC, each on a range of its own"],
  ["ac", "AC only"],
  ["dc", "DC only"],
];
const ranges: Record<string, string[]> = {
  automatic: ["auto AC+DC"],
  "ac-and-dc": ["1000 V DC", "600 V DC", "1000 V AC", "600 V AC"],
  ac: ["1000 V AC", "600 V AC"],
  dc: ["1000 V DC", "600 V DC"],
};

// What is in one's hand is kept in this browser, and every list on the screen sees it change.
const heard = new Set<() => void>();
const kept = (name: string) => localStorage.getItem(`tingate.${name}`) ?? "";
function keep(name: string, value: string) {
  localStorage.setItem(`tingate.${name}`, value);
  heard.forEach((f) => f());
}
const subscribe = (f: () => void) => {
  heard.add(f);
  return () => void heard.delete(f);
};

/** The place's instruments of a role, the one that is in hand, and its range. */
function useHand(role: string) {
  const { place } = useHere();
  const chosen = useSyncExternalStore(subscribe, () => kept(`instrument.${role}`));
  const wanted = useSyncExternalStore(subscribe, () => kept("range"));
  const list = Object.entries(place.place.instruments ?? {}).filter(([, m]) => m.role === role && m.number);
  const [id, one] = list.find(([x]) => x === chosen) ?? (list.length === 1 ? list[0]! : ["", undefined as Instrument | undefined]);
  const has = role === "meter" ? (ranges[one?.measures ?? ""] ?? []) : [];
  return { list, id, one, has, range: has.includes(wanted) ? wanted : (has[0] ?? "") };
}

/** What goes with a reading of a role: the number of what is in hand, and its range. Undefined: nothing is. */
export function useWith(role: string): string | undefined {
  const { one, range } = useHand(role);
  return one ? [one.number, range].filter(Boolean).join(", ") : undefined;
}

/** The instruments that a gate's readings need: which of the place's are in hand, and another entered. */
export function Instruments({ needs }: { needs: string[] }) {
  return (
    <div
      className="noprint mb-3.5 flex flex-wrap items-end gap-x-5 gap-y-2 border border-tin-3 bg-tin-0 px-3.5 py-2.5"
      role="group"
      aria-label="Measured with"
    >
      {roles
        .filter(([r]) => needs.includes(r))
        .map(([r, name]) => (
          <InHand key={r} role={r} name={name} />
        ))}
    </div>
  );
}

function InHand({ role, name }: { role: string; name: string }) {
  const { list, id, one, has, range } = useHand(role);
  const [fresh, setFresh] = useState(false);
  return (
    <>
      <label>
        <span className="lbl">{name}</span>
        <select
          aria-label={name}
          className={`cell text !w-64 ${one ? "" : "bad"}`}
          value={id}
          onChange={(e) => (e.target.value === "new" ? setFresh(true) : keep(`instrument.${role}`, e.target.value))}
        >
          <option value="">not chosen</option>
          {list.map(([x, m]) => (
            <option key={x} value={x}>
              {m.number}
              {m.name && `, ${m.name}`}
            </option>
          ))}
          <option value="new">another…</option>
        </select>
      </label>
      {role === "meter" && (
        <label>
          <span className="lbl">Range it stands on</span>
          <select
            aria-label="Range it stands on"
            className="cell text !w-36"
            value={range}
            disabled={has.length < 2}
            onChange={(e) => keep("range", e.target.value)}
          >
            {has.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
      )}
      <NewInstrument role={role} name={name} open={fresh} close={() => setFresh(false)} taken={(x) => keep(`instrument.${role}`, x)} />
    </>
  );
}

/** An instrument entered at the place: its number, what it is, and of a meter what it measures. */
function NewInstrument({
  role,
  name,
  open,
  close,
  taken,
}: {
  role: string;
  name: string;
  open: boolean;
  close: () => void;
  taken: (id: string) => void;
}) {
  const change = usePlaceEdit();
  const [typed, setTyped] = useState({ number: "", name: "", measures: "" });
  const [error, setError] = useState("");
  async function enter() {
    if (!typed.number.trim()) return setError("Type the number that stands on it.");
    if (role === "meter" && !typed.measures) return setError("Say what it measures.");
    setError("");
    const id = newId();
    try {
      await change(
        [
          ["number", typed.number.trim()],
          ["name", typed.name.trim()],
          ["role", role],
          ["measures", role === "meter" ? typed.measures : ""],
        ]
          .filter(([, text]) => text)
          .map(([f, text]) => ({ path: `instruments.${id}.${f}`, text: text! })),
      );
      taken(id);
      setTyped({ number: "", name: "", measures: "" });
      close();
    } catch (e) {
      setError(say(e));
    }
  }
  return (
    <Dialog open={open} close={close} title={`Another ${name.toLowerCase()}`}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void enter();
        }}
      >
        <label>
          <span className="lbl">Number on it</span>
          <input
            className="cell text"
            value={typed.number}
            maxLength={40}
            autoFocus
            onChange={(e) => setTyped({ ...typed, number: e.target.value })}
          />
        </label>
        <label>
          <span className="lbl">What it is</span>
          <input className="cell text" value={typed.name} maxLength={80} onChange={(e) => setTyped({ ...typed, name: e.target.value })} />
        </label>
        {role === "meter" && (
          <label>
            <span className="lbl">Voltage it measures</span>
            <select className="cell text" value={typed.measures} onChange={(e) => setTyped({ ...typed, measures: e.target.value })}>
              <option value=""></option>
              {measures.map(([v, text]) => (
                <option key={v} value={v}>
                  {text}
                </option>
              ))}
            </select>
          </label>
        )}
        {error && <p className="text-stop">✕ {error}</p>}
        <button className="btn self-start">Enter it at this place</button>
      </form>
    </Dialog>
  );
}
