import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { Dialog } from "../ui/Dialog";

const kinds: Record<string, string> = {
  value: "set to",
  reading: "reading",
  gone: "no longer there",
  new: "new",
  range: "range",
  delivery: "delivered at",
  meaning: "carries",
  register: "register",
  motion: "acts",
};

/** Another version of the family's file: what it would change for this drive stands here before it is taken. */
export function FamilyUpdate() {
  const { view, act } = useDesk();
  const [to, setTo] = useState("");
  const others = view.family.versions.filter((v) => v !== view.family.version);
  const effect = useQuery({
    queryKey: ["family-effect", view.id, view.seq, to],
    enabled: to !== "",
    queryFn: () => ok(api.GET("/api/drives/{id}/family-effect", { params: { path: { id: view.id }, query: { to } } })),
  });
  if (others.length === 0) return null;
  const list = effect.data?.effects ?? [];
  const heavy = list.filter((e) => e.kind === "value" || e.kind === "reading" || e.kind === "gone" || e.kind === "motion");
  return (
    <p className="mt-1.5 text-[13px] text-ink-2">
      Planned with {view.family.name} {view.family.version}. Also here:{" "}
      {others.map((v) => (
        <button key={v} className="act mr-2" onClick={() => setTo(v)}>
          see what {v} would change
        </button>
      ))}
      <Dialog
        wide
        open={to !== ""}
        close={() => setTo("")}
        title={`${view.family.name} ${view.family.version} → ${to}: what would change for ${view.drive.tag || "this drive"}`}
      >
        {effect.error && <p className="text-stop">✕ {say(effect.error)}</p>}
        {effect.data && (
          <>
            <p className="mb-2">
              {heavy.length ? `${heavy.length} that touch this drive's values, ` : "Nothing touches this drive's values; "}
              {list.length - heavy.length} others: ranges, delivery values, registers and new settings.
            </p>
            <div className="max-h-[50vh] overflow-y-auto border border-tin-3 bg-white" tabIndex={0} role="region" aria-label="Changes">
              <table className="list w-full">
                <thead>
                  <tr>
                    <th>Setting</th>
                    <th>What</th>
                    <th>Now</th>
                    <th>Then</th>
                  </tr>
                </thead>
                <tbody>
                  {[...heavy, ...list.filter((e) => !heavy.includes(e))].map((e, i) => (
                    <tr key={i} className={heavy.includes(e) ? "font-semibold" : ""}>
                      <td className="text-[13px]">
                        <b className="n">{e.code}</b> {e.name}
                      </td>
                      <td className="text-[13px]">{kinds[e.kind]}</td>
                      <td className="n text-[12.5px]">{e.before || "–"}</td>
                      <td className="n text-[12.5px]">
                        {e.after || "–"} {e.note && <span className="block font-sans font-normal text-ink-2">{e.note}</span>}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <div className="mt-3 flex gap-3">
              <button
                className="btn"
                onClick={() =>
                  void act(() =>
                    ok(
                      api.POST("/api/drives/{id}/family-version", {
                        params: { path: { id: view.id } },
                        body: { id: newId(), version: to },
                      }),
                    ),
                  ).then((done) => done && setTo(""))
                }
              >
                Take version {to} for this drive
              </button>
              <button className="ghost" onClick={() => setTo("")}>
                Stay with {view.family.version}
              </button>
            </div>
          </>
        )}
      </Dialog>
    </p>
  );
}
