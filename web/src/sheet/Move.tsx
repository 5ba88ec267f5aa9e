import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";

type Row = Schemas["MoveRow"];
const words: Record<Row["status"], [string, string]> = {
  carried: ["✓ carried", "text-good"],
  approximated: ["▲ approximated", "text-warn"],
  "no-counterpart": ["✕ no counterpart", "text-ink"],
  "to-be-decided": ["○ to be decided", "text-ink-3"],
};

/** The same intent in both families' words, before a drive is replaced by one of another family. Looking changes nothing. */
export function Move() {
  const { view } = useDesk();
  const families = useQuery({ queryKey: ["families"], queryFn: () => ok(api.GET("/api/families")) });
  const others = (families.data ?? []).filter((f) => f.name !== view.family.name);
  const [chosen, setChosen] = useState("");
  const [current, setCurrent] = useState("");
  const to = chosen || others[0]?.name || "";
  const rows = useQuery({
    queryKey: ["move", view.id, view.seq, to, current],
    enabled: to !== "",
    queryFn: () => ok(api.GET("/api/drives/{id}/move", { params: { path: { id: view.id }, query: { to, current } } })),
  });
  const count = (s: Row["status"]) => rows.data?.filter((r) => r.status === s).length ?? 0;
  return (
    <>
      <div className="flex flex-wrap items-end gap-3 p-3">
        <label>
          <span className="lbl">Family of the other drive</span>
          <select className="cell text" value={to} onChange={(e) => setChosen(e.target.value)}>
            {others.map((f) => (
              <option key={f.name}>{f.name}</option>
            ))}
          </select>
        </label>
        <label>
          <span className="lbl">Its rated current</span>
          <input
            className="cell"
            value={current}
            placeholder={view.drive.rating?.current?.text ?? ""}
            onChange={(e) => setCurrent(e.target.value)}
          />
        </label>
        <p className="max-w-[34ch] text-[13px] text-ink-2">
          {count("carried")} carried, {count("approximated")} approximated, {count("no-counterpart")} without counterpart,{" "}
          {count("to-be-decided")} to be decided. After a move: tune, direction and stop tests again.
        </p>
      </div>
      {rows.error && <p className="px-3 pb-3 text-stop">✕ {say(rows.error)}</p>}
      {rows.data && (
        <table className="list w-full">
          <caption className="sr-only">
            Settings in {view.family.name} and in {to}
          </caption>
          <thead>
            <tr>
              <th colSpan={2}>{view.family.name}</th>
              <th colSpan={2}>{to}</th>
              <th>What becomes of it</th>
            </tr>
          </thead>
          <tbody>
            {rows.data.map((r, i) => (
              <tr key={i}>
                <Side side={r.from} />
                <Side side={r.to} />
                <td className={`text-[13px] leading-tight font-semibold ${words[r.status][1]}`}>
                  {words[r.status][0]} <span className="font-normal text-ink-2">{r.note}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

function Side({ side }: { side?: Schemas["MoveSide"] }) {
  if (!side)
    return (
      <td colSpan={2} className="text-ink-3">
        –
      </td>
    );
  return (
    <>
      <td className="text-[13px] leading-tight">
        <b className="n font-semibold">{side.code}</b>
        <span className="block text-ink-2">{side.name}</span>
      </td>
      <td className="n text-[13.5px] font-semibold">{side.set_to || "–"}</td>
    </>
  );
}
