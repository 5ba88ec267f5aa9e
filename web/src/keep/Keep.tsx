import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere, useWhen } from "../app/place";
import { Checks, GateFoot } from "../ui/GateFoot";
import { ReadingColumn } from "../ui/Reading";

const names = { "as-found": "As found", "as-planned": "As planned", "as-left": "As left", "builders-preset": "Builder's preset" } as const;
type Name = keyof typeof names;

/** The record: settings as found, as planned and as left, compared and handed over. */
export function Keep() {
  const { view, act } = useDesk();
  const { place } = useHere();
  const when = useWhen();
  const list = [...view.state.snapshots].reverse();
  const [a, setA] = useState("");
  const [b, setB] = useState("");
  const first = a || (list.find((s) => s.name === "as-found") ?? list[list.length - 1])?.id || "";
  const second = b || list.find((s) => s.id !== first)?.id || "";
  const save = (name: Name) =>
    act(() => ok(api.POST("/api/drives/{id}/snapshots", { params: { path: { id: view.id } }, body: { id: newId(), name } })));
  const gate = view.state.gates.find((g) => g.key === "keep")!;
  const label = (id: string) => {
    const s = list.find((x) => x.id === id);
    return s ? `${names[s.name as Name] ?? s.name} ${when(s.at)}` : "";
  };
  return (
    <div className="printfull split">
      <main className="flex min-h-0 flex-col">
        <div className="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-4">
          <h1>Keep</h1>
          <p className="mb-3 text-ink-2">
            What the drive held when it was found, what was planned, and what it was left with. As found comes first, before anything is
            changed.
          </p>
          <div className="mb-3 flex flex-wrap gap-2">
            {(Object.keys(names) as Name[]).map((n) => (
              <button key={n} className={n === "as-left" ? "btn" : "ghost"} onClick={() => void save(n)}>
                Save {names[n].toLowerCase()}
              </button>
            ))}
          </div>
          <table className="list mb-4 w-full border border-tin-3 bg-white">
            <caption className="sr-only">Snapshots</caption>
            <thead>
              <tr>
                <th>Snapshot</th>
                <th>When</th>
                <th>Who</th>
                <th>From</th>
                <th>Settings</th>
              </tr>
            </thead>
            <tbody>
              {list.map((s) => (
                <tr key={s.id}>
                  <td className="font-semibold">
                    {names[s.name as Name] ?? s.name} <span className="font-normal text-ink-3">{s.label}</span>
                  </td>
                  <td className="n text-[13px]">{when(s.at)}</td>
                  <td>{place.place.people?.[s.by]?.initials}</td>
                  <td>{s.how}</td>
                  <td className="n">{s.count}</td>
                </tr>
              ))}
              {list.length === 0 && (
                <tr>
                  <td colSpan={5} className="text-ink-3">
                    None yet. Read the drive at the settings sheet, then save as found.
                  </td>
                </tr>
              )}
            </tbody>
          </table>
          {list.length > 1 && (
            <>
              <h3 className="mb-1.5">Compare</h3>
              <div className="mb-2 flex flex-wrap items-center gap-2">
                {[[first, setA, "First snapshot"] as const, [second, setB, "Second snapshot"] as const].map(([value, set, what]) => (
                  <select key={what} aria-label={what} className="cell text !w-auto" value={value} onChange={(e) => set(e.target.value)}>
                    {list.map((s) => (
                      <option key={s.id} value={s.id}>
                        {label(s.id)}
                      </option>
                    ))}
                  </select>
                ))}
              </div>
              <Compare a={first} b={second} names={[label(first), label(second)]} />
            </>
          )}
        </div>
        <GateFoot gate="keep" keys={[["find or do", "Ctrl K"]]} />
      </main>
      <ReadingColumn>
        <h2>What this gate asks for</h2>
        <Checks gate={gate} />
        <h2 className="mt-1">Hand over</h2>
        <div className="flex flex-col items-start gap-2">
          <a className="ghost" href={`/api/drives/${view.id}/record.pdf`}>
            Record (PDF)
          </a>
          <a className="ghost" href={`/api/drives/${view.id}/sheet.csv`}>
            Settings (CSV)
          </a>
          <a className="ghost" href={`/api/drives/${view.id}/bundle.zip`}>
            Whole drive file (bundle)
          </a>
        </div>
        <p className="text-[13px] text-ink-2">
          The bundle holds every entry with who, when and why, and its own published schema. Any Tin Gate takes it in again.
        </p>
      </ReadingColumn>
    </div>
  );
}

function Compare({ a, b, names: [na, nb] }: { a: string; b: string; names: [string, string] }) {
  const { view } = useDesk();
  const [all, setAll] = useState(false);
  const rows = useQuery({
    queryKey: ["compare", view.id, a, b],
    queryFn: () => ok(api.GET("/api/drives/{id}/compare", { params: { path: { id: view.id }, query: { a, b } } })),
  });
  if (rows.error) return <p className="text-stop">✕ {say(rows.error)}</p>;
  if (!rows.data) return <p>Comparing…</p>;
  const differ = rows.data.filter((r) => !r.same);
  const shown = all ? rows.data : differ;
  return (
    <>
      <p className="mb-1.5 text-ink-2">
        {differ.length} of {rows.data.length} differ.{" "}
        <button className="act" onClick={() => setAll(!all)}>
          {all ? "Only what differs" : "Show all"}
        </button>
      </p>
      <table className="list w-full border border-tin-3 bg-white">
        <thead>
          <tr>
            <th>Code</th>
            <th>Setting</th>
            <th>{na}</th>
            <th>{nb}</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((r) => (
            <tr key={r.code}>
              <td className="n font-semibold">{r.code}</td>
              <td>{r.name}</td>
              <td className="n">{r.a ? `${r.a} ${r.unit}` : "–"}</td>
              <td className={`n ${r.same ? "" : "font-bold"}`}>
                {r.b ? `${r.b} ${r.unit}` : "–"} {r.same ? "" : "≠"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
