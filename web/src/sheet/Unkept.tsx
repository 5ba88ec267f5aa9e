import { useState } from "react";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";

/** What the next power-off would take back, and the one setting that keeps it; nothing where all is kept. */
export function Unkept() {
  const { view, act, setNotice, refresh } = useDesk();
  const [busy, setBusy] = useState(false);
  const u = view.state.unkept;
  if (!u || (!u.waiting.length && !u.lost.length)) return null;
  const code = u.setting ?? "";
  const link = u.link && !!view.drive.link?.address && !view.family.read_only;
  async function send() {
    setBusy(true);
    try {
      const r = await ok(
        api.POST("/api/drives/{id}/link/write", { params: { path: { id: view.id } }, body: { id: newId(), code, clear: false } }),
      );
      setNotice(r.outcome === "held" ? "" : `${code}: ${r.message}`);
    } catch (e) {
      setNotice(say(e));
    }
    setBusy(false);
    refresh();
  }
  return (
    <section aria-label="Not kept yet" className="noprint mb-2 border-l-[5px] border-warn-bar bg-tin-0 px-3 py-2 text-[13.5px]">
      {u.waiting.length > 0 && (
        <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span className="min-w-0 flex-1">
            <b>▲ A power-off takes back {u.waiting.length}:</b> <span className="n">{u.waiting.join(", ")}</span>. Set{" "}
            <b className="n">{code}</b>, {u.name}, to <b className="n">{u.set_to}</b>.
          </span>
          {link && (
            <button className="ghost" disabled={busy} onClick={() => void send()}>
              {busy ? "Keeping…" : "Keep over the link"}
            </button>
          )}
          <button
            className="ghost"
            onClick={() =>
              void act(() => ok(api.POST("/api/drives/{id}/entered", { params: { path: { id: view.id } }, body: { id: newId(), code } })))
            }
          >
            Kept at the keypad
          </button>
        </div>
      )}
      {u.lost.length > 0 && (
        <p>
          <b>▲ Written, and lost at the next power-off:</b> <span className="n">{u.lost.join(", ")}</span>. Set on the keypad they stay.
        </p>
      )}
    </section>
  );
}
