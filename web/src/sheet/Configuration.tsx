import { useState } from "react";
import { useDesk } from "../app/drive";
import { Dialog } from "../ui/Dialog";

/** The plan as a device configuration file, for a drive whose settings are objects of an object dictionary. */
export function Configuration() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const [node, setNode] = useState("1");
  const n = Number(node);
  const good = /^\d+$/.test(node.trim()) && n >= 1 && n <= 127;
  const motion = view.state.lines.filter((l) => l.planned && !l.missing && l.motion).map((l) => l.code);
  if (!view.state.lines.some((l) => /^[0-9A-F]{4}h:[0-9A-F]{2}$/.test(l.code))) return null;
  return (
    <>
      <button className="act" onClick={() => setOpen(true)}>
        DCF…
      </button>
      <Dialog open={open} close={() => setOpen(false)} title="The plan as a device configuration file">
        <p className="mb-3 text-[13.5px] text-ink-2">
          Every object of the family, the planned ones with what they are to hold. Whoever loads it into the drive works by the maker&apos;s
          manual; here it counts only once it is read back.
        </p>
        {motion.length > 0 && (
          <p className="mb-3 text-[13.5px] font-medium text-warn">
            ▲ It holds {motion.length} {motion.length === 1 ? "setting" : "settings"} that could start motion ({motion.join(", ")}). Load it
            only with both torque-off channels open and the area clear.
          </p>
        )}
        <label className="block">
          <span className="lbl">The drive&apos;s number on the bus</span>
          <input
            className={`cell max-w-28 ${good ? "" : "bad"}`}
            inputMode="numeric"
            value={node}
            onChange={(e) => setNode(e.target.value)}
          />
          {!good && <span className="block text-[12px] text-stop">✕ wanted: 1 to 127</span>}
        </label>
        {good && (
          <a className="btn mt-3 inline-block" href={`/api/drives/${view.id}/planned.dcf?node=${n}`} onClick={() => setOpen(false)}>
            Save the file
          </a>
        )}
      </Dialog>
    </>
  );
}
