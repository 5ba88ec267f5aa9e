import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say } from "../app/client";
import { useHere, usePlaceEdit, useWhen } from "../app/place";
import { Dialog } from "../ui/Dialog";

/** What holds for every drive of the place: its name, its zone, its shifts, its practice. */
export function ThisPlace({ open, close }: { open: boolean; close: () => void }) {
  const { place } = useHere();
  const change = usePlaceEdit();
  const practices = useQuery({ queryKey: ["practices"], enabled: open, queryFn: () => ok(api.GET("/api/practices")), staleTime: Infinity });
  const [typed, setTyped] = useState<Record<string, string>>({});
  const [error, setError] = useState("");
  const p = place.place;
  const now: Record<string, string> = {
    name: p.name,
    zone: p.zone,
    shifts: p.shifts ?? "",
    permit: p.permit ?? "",
    practice: p.practice ?? "",
  };
  async function keep() {
    const sets = Object.entries(typed)
      .filter(([k, v]) => v !== now[k])
      .map(([path, text]) => ({ path, text }));
    setError("");
    try {
      if (sets.length > 0) await change(sets);
      setTyped({});
      close();
    } catch (e) {
      setError(say(e));
    }
  }
  const field = (path: string, label: string, hint: string) => (
    <label>
      <span className="lbl">{label}</span>
      <input
        className="cell text"
        value={typed[path] ?? now[path]}
        placeholder={hint}
        onChange={(e) => setTyped({ ...typed, [path]: e.target.value })}
      />
    </label>
  );
  return (
    <Dialog open={open} close={close} title="This place">
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <p className="text-[13px] text-ink-2">A {p.kind} place, for good.</p>
        {field("name", "Name", "")}
        {field("zone", "Time zone", "Europe/Oslo")}
        {field("shifts", "A shift changes at", "06:00, 14:00, 22:00")}
        <p className="-mt-2 text-[13px] text-ink-2">
          What was proved dead lapses when the shift changes: then it is NOT KNOWN, and is proved again.
        </p>
        {field("permit", "Permit for live work: who gives it, which paper", "electrical engineer on duty, form E-4")}
        <label>
          <span className="lbl">Practice of drives that name none</span>
          <select
            className="cell text"
            value={typed.practice ?? now.practice}
            onChange={(e) => setTyped({ ...typed, practice: e.target.value })}
          >
            <option value="">as shipped</option>
            {practices.data?.practices.map((x) => (
              <option key={x.name} value={x.name}>
                {x.title}
              </option>
            ))}
          </select>
        </label>
        {error && <p className="text-stop">✕ {error}</p>}
        <button className="btn self-start">Keep</button>
      </form>
      <CameIn open={open} />
    </Dialog>
  );
}

const kinds: Record<string, string> = { bundle: "A bundle", family: "Family", practice: "Practice" };

/** What came into this data folder at this place, and who brought it. */
function CameIn({ open }: { open: boolean }) {
  const { place } = useHere();
  const when = useWhen();
  const list = useQuery({
    queryKey: ["arrivals", place.id, place.version],
    enabled: open,
    staleTime: 0,
    queryFn: () => ok(api.GET("/api/places/{id}/arrivals", { params: { path: { id: place.id } } })),
  });
  if (!list.data?.length) return null;
  return (
    <section className="mt-4 max-h-52 overflow-y-auto border-t border-tin-3 pt-2 text-[13px]" aria-label="What came in" tabIndex={0}>
      <h3 className="text-[14px]">What came in</h3>
      <ul>
        {list.data.map((a, i) => (
          <li key={i} className="border-b border-dotted border-tin-3 py-1">
            <span className="n text-ink-3">{when(a.at)}</span> {a.by}: {kinds[a.what] ?? a.what} {a.name} {a.version}
            {a.what === "bundle" && (
              <span className="text-ink-2">
                {" "}
                with {a.new.length} new{a.same.length > 0 && `, ${a.same.length} as they were here`}
                {a.different.length > 0 && `; different here and left so: ${a.different.join("; ")}`}
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
