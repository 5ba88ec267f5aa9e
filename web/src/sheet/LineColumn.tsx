import { useState } from "react";
import { api, ok, say, type Line } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere, useWhen } from "../app/place";
import { Dialog } from "../ui/Dialog";
import { Row } from "../ui/Figure";
import { Note } from "../ui/Finding";
import { Findings } from "../ui/Reading";
import { KeypadPhoto } from "./KeypadPhoto";

const hows: Record<string, string> = {
  typed: "typed from the keypad",
  eye: "agreed by eye",
  link: "read over the link",
  csv: "from a list",
  written: "written and read back",
  voice: "read aloud and typed",
};

/** One setting: how its value came about, its range and keys, what it reads and what is wrong. */
export function LineColumn({ line: l }: { line: Line }) {
  const { view } = useDesk();
  const findings = view.state.findings.filter((f) => f.field === `setting ${l.code}` || (f.code === "tune-void" && l.voids));
  return (
    <>
      <h2>
        {l.code} {l.name}
      </h2>
      {l.also && <p className="text-[13.5px] text-ink-2">{l.also}</p>}
      <div>
        {l.figures.map((f) => (
          <Row key={f.label} label={f.label} value={f.value} unit={f.unit} note={f.note} />
        ))}
      </div>
      <Facts line={l} />
      <p className="text-[13px] text-ink-2">
        {l.range && `Range ${l.range}. `}
        {l.options && `Choices: ${l.options.join(", ")}. `}As delivered: {l.delivery}.{" "}
        {l.running ? "May be changed while running. " : "Refused while running. "}
        {l.full_access && "Needs full access on the keypad. "}
        {l.protects && "Protects: type what the keypad shows, or read it over the link. "}
        {l.voids?.includes("tune") && "Changing it voids a finished tune. "}
        {l.voids?.some((v) => v !== "tune") && `Changing it puts ${l.voids.filter((v) => v !== "tune").join(", ")} back to delivery. `}
        {l.moves && `Changing it moves ${l.moves.join(", ")}: read them again. `}
        {l.acting}
      </p>
      <p className="flex flex-wrap items-center gap-1.5 text-[13px] text-ink-2">
        Keys:
        {l.key_path.map((k, i) => (
          <kbd key={i} className="kb">
            {k}
          </kbd>
        ))}
      </p>
      {l.paths?.map((path, i) => (
        <p key={i} className="flex flex-wrap items-center gap-1.5 text-[13px] text-ink-2">
          or:
          {path.map((k, n) => (
            <kbd key={n} className="kb">
              {k}
            </kbd>
          ))}
        </p>
      ))}
      <Write line={l} />
      <KeypadPhoto code={l.code} />
      <h2 className="mt-1">Findings</h2>
      <Findings list={findings} />
      {l.verdict === "holds" && <Note kind="holds" title="Agrees with the plan" />}
    </>
  );
}

/** Planned, entered, written and read are four different things, each with who and when. */
function Facts({ line: l }: { line: Line }) {
  const { place } = useHere();
  const when = useWhen();
  const by = (id?: string) => (id ? (place.place.people?.[id]?.initials ?? "") : "");
  const rows: [string, string, string][] = [["Planned", l.planned ? l.set_to : "–", ""]];
  if (l.entered) rows.push(["Entered", l.entered.text, `${by(l.entered.by)} ${when(l.entered.at)}`]);
  if (l.written) rows.push(["Written", l.written.text, `${l.written.outcome} · ${by(l.written.by)} ${when(l.written.at)}`]);
  if (l.read)
    rows.push([
      "Reads",
      l.read.shown ?? l.read.text,
      `${hows[l.read.how]} · ${by(l.read.by)}${l.read.voice ? `, read by ${by(l.read.voice)}` : ""} ${when(l.read.at)}`,
    ]);
  return (
    <table className="w-full text-[13px]" aria-label="What was done to it">
      <tbody>
        {rows.map(([what, value, who]) => (
          <tr key={what} className="border-b border-dotted border-tin-3">
            <th scope="row" className="py-[3px] pr-2 text-left font-normal text-ink-2">
              {what}
            </th>
            <td className="n py-[3px] pr-2 text-[15px] font-semibold">{value}</td>
            <td className="c py-[3px] text-right text-[12px] text-ink-3">{who}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Writes one setting over the link. One that could start motion needs a person's word that the area is clear. */
function Write({ line: l }: { line: Line }) {
  const { view, setNotice, refresh } = useDesk();
  const { place, me } = useHere();
  const [ask, setAsk] = useState(false);
  const [sure, setSure] = useState(false);
  const [busy, setBusy] = useState(false);
  if (!l.planned || !view.drive.link?.address) return null;
  if (view.family.read_only)
    return <p className="text-[12.5px] text-ink-2">Read only over the link: {view.family.read_only}. Set it on the keypad.</p>;
  async function write(clear: boolean) {
    setBusy(true);
    setAsk(false);
    try {
      const r = await ok(
        api.POST("/api/drives/{id}/link/write", { params: { path: { id: view.id } }, body: { id: newId(), code: l.code, clear } }),
      );
      setNotice(r.outcome === "held" ? (r.remark ? `${l.code}: ${r.remark}` : "") : `${l.code}: ${r.message}`);
    } catch (e) {
      setNotice(say(e));
    }
    setBusy(false);
    refresh();
  }
  return (
    <div>
      <button
        className="ghost"
        disabled={busy}
        onClick={() => {
          if (!l.motion) return void write(false);
          setSure(false); // each write asks anew: the area may have changed since
          setAsk(true);
        }}
      >
        {busy ? "Writing…" : "Write and read back"}
      </button>
      <p className="mt-1 text-[12.5px] text-ink-3">Only while the drive reports standstill. A link never starts a motor.</p>
      <Dialog open={ask} close={() => setAsk(false)} title={`${l.code} could start the motor`}>
        <p className="mb-2">Open both torque-off channels and see the drive say so. Torque off is not isolation.</p>
        <label className="mb-3 flex items-start gap-2">
          <input type="checkbox" className="mt-1" checked={sure} onChange={(e) => setSure(e.target.checked)} />
          <span>
            I, <b>{place.place.people?.[me]?.initials}</b>, have seen that nobody is in the machine's area.
          </span>
        </label>
        <button className="btn" disabled={!sure} onClick={() => void write(true)}>
          Write {l.set_to} to {l.code}
        </button>
      </Dialog>
    </div>
  );
}
