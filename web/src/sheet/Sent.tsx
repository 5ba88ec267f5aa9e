import { useQuery } from "@tanstack/react-query";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";
import { useHere, useWhen } from "../app/place";

const colours: Record<string, string> = {
  held: "text-good",
  begun: "text-stop",
  unknown: "text-stop",
  differs: "text-stop",
  refused: "text-warn",
};
const signs: Record<string, string> = {
  held: "✓ held",
  begun: "✕ outcome not known",
  unknown: "✕ not known",
  differs: "✕ differs",
  refused: "▲ refused",
};

/** Every request that wrote to the drive: what, where, by whom, and what became of it. */
export function SentLog() {
  const { view } = useDesk();
  const { place } = useHere();
  const when = useWhen();
  const sent = useQuery({
    queryKey: ["sent", view.id, view.seq],
    queryFn: () => ok(api.GET("/api/drives/{id}/sent", { params: { path: { id: view.id } } })),
  });
  if (sent.error) return <p className="p-3 text-stop">✕ {say(sent.error)}</p>;
  if (sent.data?.length === 0)
    return (
      <p className="p-3 text-ink-2">
        Nothing was written to this drive over a link. Each single setting that is will stand here, with its registers.
      </p>
    );
  return (
    <table className="list w-full">
      <caption className="sr-only">Requests that wrote</caption>
      <thead>
        <tr>
          <th>When, who</th>
          <th>Setting</th>
          <th>Held</th>
          <th>Asked</th>
          <th>Read back</th>
          <th>Outcome</th>
        </tr>
      </thead>
      <tbody>
        {sent.data?.map((s, i) => (
          <tr key={i}>
            <td className="n text-[12.5px] leading-tight">
              {when(s.at, true)}
              <span className="block font-sans">
                {place.place.people?.[s.by]?.initials}
                {s.cleared_by && `, area clear: ${s.cleared_by}`}
              </span>
            </td>
            <td className="text-[13px] leading-tight">
              <b className="n">{s.code}</b> {s.name}
              <span className="n block text-[12px] text-ink-3">
                {s.address && `${s.address} unit ${s.unit || 1} reg ${s.register} ← ${s.raw.join(" ")}`}
              </span>
            </td>
            <td className="n text-[13px]">{s.before || "–"}</td>
            <td className="n text-[13px] font-semibold">{s.asked}</td>
            <td className="n text-[13px]">{s.back || "–"}</td>
            <td className={`text-[13px] leading-tight font-semibold ${colours[s.outcome]}`}>
              {signs[s.outcome]}
              {s.message && <span className="block font-normal text-ink-2">{s.message}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
