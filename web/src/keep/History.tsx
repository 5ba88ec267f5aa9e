import { useQuery } from "@tanstack/react-query";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere, useWhen } from "../app/place";
import { Foot } from "../ui/Foot";
import { Reason } from "../ui/Reason";

/** Everything that happened to this drive, newest first. Nothing is ever removed; an entry can be withdrawn. */
export function History() {
  const { view, act } = useDesk();
  const { place } = useHere();
  const when = useWhen();
  const rows = useQuery({
    queryKey: ["history", view.id, view.version, view.state.snapshots.length],
    queryFn: () => ok(api.GET("/api/drives/{id}/history", { params: { path: { id: view.id } } })),
  });
  const withdraw = async (entry: string, reason: string) => {
    const done = await act(() =>
      ok(api.POST("/api/drives/{id}/withdrawals", { params: { path: { id: view.id } }, body: { id: newId(), entry, reason } })),
    );
    if (done) await rows.refetch();
    return done;
  };
  return (
    <main className="printfull flex min-h-0 flex-1 flex-col">
      <div className="printfull min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-4" tabIndex={0} aria-label="History list">
        <h1>History</h1>
        <p className="mb-3 text-ink-2">Each edit and each entry, with who, when and why. Times are those of {place.place.zone || "UTC"}.</p>
        {rows.error && <p className="text-stop">✕ {say(rows.error)}</p>}
        <table className="list w-full border border-tin-3 bg-white">
          <thead>
            <tr>
              <th className="w-44 max-sm:w-24">When</th>
              <th className="w-14">Who</th>
              <th>What</th>
              <th className="max-sm:hidden">Why</th>
              <th className="w-24 max-sm:w-[5.5rem]">
                <span className="sr-only">Withdraw</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {rows.data?.map((r) => (
              <tr key={r.id}>
                <td className="n text-[13px]">
                  {when(r.at, true)}
                  {r.typed && <span className="block text-[11.5px] text-ink-3">typed {when(r.typed, true)}, sent later</span>}
                  {r.clock && <span className="block text-[11.5px] text-warn">▲ {r.clock}</span>}
                </td>
                <td>{r.by}</td>
                <td>
                  {r.what} {r.why && <span className="block text-ink-2 sm:hidden">{r.why}</span>}
                </td>
                <td className="text-ink-2 max-sm:hidden">{r.why}</td>
                <td>
                  {["reading", "decision", "evidence", "snapshot"].includes(r.kind) && (
                    <Reason
                      ask="Withdraw…"
                      label={`Reason to withdraw: ${r.what}`}
                      does="Withdraw"
                      placeholder="why"
                      send={(reason) => withdraw(r.id, reason)}
                    />
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <Foot keys={[["undo own last edit", "Ctrl Z"]]}>
        <button className="ghost" onClick={() => window.print()}>
          Print
        </button>
      </Foot>
    </main>
  );
}
