import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { of } from "../app/asked";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere } from "../app/place";

type Row = Schemas["SettingRow"];
const filters: [string, string, (r: Row) => boolean][] = [
  ["all", "All", () => true],
  ["changed", "Changed from delivery", (r) => r.changed],
  ["planned", "Planned", (r) => r.standing === "planned"],
  ["on-purpose", "Left so", (r) => r.standing === "on-purpose"],
  ["never", "Never seen", (r) => r.standing === "never"],
];
const standings: Record<Row["standing"], [string, string]> = {
  planned: ["planned", "text-ink-2"],
  "on-purpose": ["⊘ left so on purpose", "text-ink-2"],
  changed: ["▲ changed, not planned", "text-warn"],
  "as-delivered": ["as delivered", "text-ink-2"],
  never: ["○ never looked at", "text-ink-3"],
};

/** Every setting of the family, in the plan or not: what was done to it, and what differs from delivery. */
export function All({ choose }: { choose: (code: string) => void }) {
  const { view, act } = useDesk();
  const { place } = useHere();
  const [filter, setFilter] = useState("all");
  const [text, setText] = useState("");
  const rows = useQuery({
    queryKey: ["settings", view.id, view.seq],
    queryFn: () => ok(api.GET("/api/drives/{id}/settings", { params: { path: { id: view.id } } })),
    placeholderData: of(view.id),
  });
  if (rows.error) return <p className="p-3 text-stop">✕ {say(rows.error)}</p>;
  const list = rows.data ?? [];
  const keep = filters.find(([k]) => k === filter)![2];
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = list.filter(
    (r) => keep(r) && words.every((w) => `${r.code} ${r.name} ${r.short} ${r.group_name}`.toLowerCase().includes(w)),
  );
  const leave = (r: Row) =>
    act(() => ok(api.POST("/api/drives/{id}/as-delivered", { params: { path: { id: view.id } }, body: { id: newId(), code: r.code } })));
  const by = (f?: Schemas["Fact"]) => (f ? (place.place.people?.[f.by]?.initials ?? "") : "");
  let group = "";
  return (
    <>
      <div className="sticky top-0 z-[2] flex flex-wrap items-center gap-1.5 border-b border-tin-2 bg-white p-2.5">
        {filters.map(([k, name, is]) => (
          <button
            key={k}
            aria-pressed={filter === k}
            className={`border border-tin-3 px-2.5 py-1 text-[13px] ${filter === k ? "bg-ink text-white" : "bg-tin-0"}`}
            onClick={() => setFilter(k)}
          >
            {name} {list.filter(is).length}
          </button>
        ))}
        <input
          className="cell text !h-[30px] max-w-40 flex-1"
          aria-label="Search the settings"
          placeholder="search"
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </div>
      <table className="list w-full">
        <caption className="sr-only">All settings of the family</caption>
        <thead>
          <tr>
            <th>Code</th>
            <th>On the keypad</th>
            <th>Delivered</th>
            <th>Wanted</th>
            <th>Reads</th>
            <th>Standing</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((r) => {
            const head = r.group_name !== group;
            group = r.group_name;
            return [
              head && (
                <tr key={`g-${r.group}`}>
                  <th colSpan={6} scope="rowgroup" className="!py-1 !text-[12.5px] !text-ink-2">
                    {r.group_name}
                  </th>
                </tr>
              ),
              <tr key={r.code} data-setting={r.code} onClick={() => choose(r.code)}>
                <td className="n text-[13.5px] font-semibold">{r.code}</td>
                <td className="text-[13.5px]">
                  {r.name}
                  {r.motion && <span className="text-warn"> ▲</span>}
                </td>
                <td className="n text-[13px]">{r.delivery}</td>
                <td className="n text-[13px] font-semibold">{r.set_to || "–"}</td>
                <td className={`n text-[13px] ${r.changed ? "font-semibold" : ""}`}>
                  {r.read ? (r.read.shown ?? `✕ ${r.read.text}`) : "–"}
                  <Done
                    entered={r.entered && `entered ${by(r.entered)}`}
                    written={r.written && `written ${r.written.outcome} ${by(r.written)}`}
                  />
                </td>
                <td className={`text-[13px] leading-tight ${standings[r.standing][1]}`}>
                  {standings[r.standing][0]} {r.standing === "on-purpose" && by(r.confirmed)}
                  {(r.standing === "never" || r.standing === "as-delivered") && (
                    <button className="act block" aria-label={`Leave ${r.code} as delivered`} onClick={() => void leave(r)}>
                      leave as delivered
                    </button>
                  )}
                </td>
              </tr>,
            ];
          })}
        </tbody>
      </table>
      {rows.data && shown.length === 0 && (
        <p className="p-3 text-ink-2">
          {filter === "changed" && !list.some((r) => r.read)
            ? "Nothing was read yet: read the drive, or type what its keypad shows."
            : "No setting here."}
        </p>
      )}
    </>
  );
}

function Done({ entered, written }: { entered?: string; written?: string }) {
  if (!entered && !written) return null;
  return <span className="block font-sans text-[12px] font-normal text-ink-3">{[entered, written].filter(Boolean).join(" · ")}</span>;
}
