import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { Dialog } from "../ui/Dialog";
import { Row } from "../ui/Figure";

/** Asks which family and size answers at the drive's address, before anything is read or written. */
export function Probe() {
  const { view, setNotice, saver } = useDesk();
  const [found, setFound] = useState<Schemas["Probed"][] | null>(null);
  const [busy, setBusy] = useState(false);
  async function ask() {
    setBusy(true);
    try {
      setFound(await ok(api.POST("/api/drives/{id}/link/probe", { params: { path: { id: view.id } } })));
    } catch (e) {
      setNotice(say(e));
    }
    setBusy(false);
  }
  async function take(f: Schemas["Probed"]) {
    const sets = [
      { path: "rating.dialect", text: f.family },
      { path: "rating.type", text: view.drive.rating?.type || f.type },
      { path: "rating.firmware", text: f.firmware },
    ].filter((s) => s.text);
    setFound(null);
    await saver.all(sets, "as the drive answers");
  }
  return (
    <>
      <button className="act whitespace-nowrap" disabled={busy} onClick={() => void ask()}>
        {busy ? "Asking…" : "What answers?"}
      </button>
      <Dialog open={!!found} close={() => setFound(null)} title={found?.length ? "This answers" : "No family known here answers"}>
        {found?.length === 0 && (
          <p>Something answers at the address, but not as a family known here. Is the unit right? Is its family's file added?</p>
        )}
        {found?.map((f) => (
          <section key={f.family} className="mb-3">
            <Row label="Family" value={`${f.family} ${f.version}`} />
            <Row label="Size" value={f.type || `code ${f.code}, not in the family's list`} />
            {f.heavy_a > 0 && (
              <Row label="Rated current" value={`${f.heavy_a}`} unit="A" note={f.normal_a ? `${f.normal_a} A normal duty` : "heavy duty"} />
            )}
            {f.firmware && <Row label="Firmware" value={f.firmware} note={f.covered ? "" : "not covered by the family's file"} />}
            {view.family.name && view.family.name !== f.family && (
              <p className="mt-1 text-stop">✕ The drive file says {view.family.name}. Is this the right drive?</p>
            )}
            <button className="btn mt-2" onClick={() => void take(f)}>
              Take family, type and firmware
            </button>
          </section>
        ))}
        <p className="text-[13px] text-ink-2">Compare with the label on the drive: an address can be another drive's.</p>
      </Dialog>
    </>
  );
}
