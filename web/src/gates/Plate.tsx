import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ok, sendBytes, type Answered, type View } from "../app/client";
import { textAt, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { typed } from "../app/typed";
import { FamilyUpdate } from "../family/Update";
import { Links } from "../picture/Links";
import { Choice, Field } from "../ui/Field";
import { Figure } from "../ui/Figure";
import { GateFoot } from "../ui/GateFoot";
import { Findings, ReadingColumn } from "../ui/Reading";
import { Cooling } from "./Cooling";

const connections: [string, string][] = [
  ["star", "Y star"],
  ["delta", "Δ delta"],
  ["double-star", "double star"],
  ["double-delta", "double delta"],
];
const columns: [string, string, string][] = [
  ["voltage", "V", ""],
  ["frequency", "Hz", ""],
  ["power", "kW or hp", ""],
  ["current", "A", ""],
  ["speed", "r/min", ""],
  ["power_factor", "cos φ", ""],
];

/** The motor's plate, drawn as a plate: what is stamped is typed where it stands. */
export function Plate() {
  const { view } = useDesk();
  const s = view.state;
  return (
    <div className="printfull split">
      <main className="flex min-h-0 flex-col">
        <div className="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-4">
          <h1>Plate</h1>
          <p className="mb-3 max-w-[64ch] text-ink-2">
            Type what is stamped on the motor, column for column. Leave blank what is missing: it is worked out, and marked as worked out.
          </p>
          <PlatePicture />
          <div className="mt-3.5 grid grid-cols-2 gap-4 max-sm:grid-cols-1">
            <section>
              <h3 className="mb-1 flex items-baseline justify-between">
                Terminal box {connectionName(view)} <span className="c text-[13px] font-normal text-ink-3">dead work</span>
              </h3>
              <Links connection={linkedConnection(view)} />
            </section>
            <Told />
          </div>
          <Label />
          <Photos />
        </div>
        <GateFoot gate="plate" />
      </main>
      <ReadingColumn>
        <h2>What follows</h2>
        <div data-testid="figures">
          {s.figures.map((f) => (
            <Figure key={f.key} figure={f} />
          ))}
          {s.figures.length === 0 && (
            <p className="text-[13px] text-ink-3">Each figure stands here as soon as the plate gives it, with how it came about.</p>
          )}
        </div>
        <h2 className="mt-1">Findings</h2>
        <Findings list={s.findings.filter((f) => f.gate === "plate")} extra={(f) => <Corrections finding={f} />} />
        <Confirm />
      </ReadingColumn>
    </div>
  );
}

const linkedConnection = (v: View) => textAt(v, `motor.rows.${v.state.linked}.connection`);
function connectionName(v: View) {
  const c = linkedConnection(v);
  const volts = textAt(v, `motor.rows.${v.state.linked}.voltage`);
  return c ? `for ${c.replace("-", " ")}${volts && `, ${volts.replace(/\s*V$/i, "")} V`}` : "";
}

function rowIds(v: View) {
  return Object.keys(v.drive.motor?.rows ?? {}).sort();
}

function PlatePicture() {
  const { view, saver } = useDesk();
  const ids = rowIds(view);
  const [spare] = useState(newId);
  const rows = ids.length ? ids : [spare];
  const pm = textAt(view, "motor.kind") === "permanent-magnet";
  const [more, setMore] = useState<string[]>([]);
  const shown = [...rows, ...more.filter((m) => !rows.includes(m))];
  return (
    <form className="plate px-[26px] pt-5 pb-4" aria-label="Motor plate" onSubmit={(e) => e.preventDefault()}>
      <i className="top-[9px] left-[9px]" />
      <i className="top-[9px] right-[9px]" />
      <i className="bottom-[9px] left-[9px]" />
      <i className="right-[9px] bottom-[9px]" />
      <div className="mb-2.5 grid grid-cols-12 gap-2.5 max-sm:grid-cols-4">
        <Field path="motor.makers_type" label="Maker's type" text className="col-span-3" />
        <Field path="motor.serial" label="Serial" text className="col-span-3" />
        <Field path="motor.frame" label="Frame" text className="col-span-2" />
        <Field path="motor.insulation" label="Ins. class" text className="col-span-2" />
        <Field path="motor.duty" label="Duty" text className="col-span-2" />
      </div>
      <div className="grid grid-cols-[132px_repeat(6,minmax(66px,1fr))_24px] max-sm:grid-cols-3 max-sm:gap-x-2">
        <span className="lbl pb-1 max-sm:col-span-3">Link fitted</span>
        {columns.map(([, name]) => (
          <span key={name} className="lbl px-2 pb-1 max-sm:hidden">
            {name}
          </span>
        ))}
        <span className="max-sm:hidden" />
        {shown.map((id) => (
          <PlateRow
            key={id}
            id={id}
            linked={view.state.linked === id}
            name={textAt(view, `motor.rows.${id}.voltage`) || "new"}
            link={() => void saver.all([{ path: "motor.linked", text: id }])}
          />
        ))}
      </div>
      <button className="act mt-1" type="button" onClick={() => setMore([...more, newId()])}>
        + another row of the plate
      </button>
      <div className="mt-2 grid grid-cols-12 gap-2.5 max-sm:grid-cols-4">
        <Choice
          path="motor.kind"
          label="Kind"
          options={[
            ["induction", "induction"],
            ["permanent-magnet", "magnets"],
          ]}
          className="col-span-2"
        />
        <Field path="motor.service_factor" label="Service f." className="col-span-2" placeholder="none" />
        <Field path="motor.efficiency" label="Efficiency %" className="col-span-2" placeholder="none" />
        <Field path="motor.poles" label="Poles" className="col-span-2" placeholder={pm ? "as stamped" : "worked out"} />
        <Field path="motor.ambient" label="Ambient °C" className="col-span-2" />
        <Cooling className="col-span-2" />
      </div>
    </form>
  );
}

function PlateRow({ id, linked, name, link }: { id: string; linked: boolean; name: string; link: () => void }) {
  const { saver, view } = useDesk();
  const p = `motor.rows.${id}.`;
  const exists = !!view.drive.motor?.rows?.[id];
  return (
    <>
      <div className={`flex items-center gap-1 self-start max-sm:col-span-3 ${linked ? "shadow-[inset_3px_0_var(--color-plum)]" : ""}`}>
        <button
          type="button"
          role="radio"
          aria-checked={linked}
          aria-label={`Link fitted: ${name} V row`}
          className="px-1.5 text-[15px]"
          onClick={link}
          disabled={!exists}
        >
          {linked ? "●" : "○"}
        </button>
        <Choice path={`${p}connection`} label={`Connection of the ${name} row`} hideLabel options={connections} className="flex-1" />
      </div>
      {columns.map(([field, unit]) => (
        <div
          key={field}
          data-unit={unit}
          className="max-sm:before:text-[12.5px] max-sm:before:text-ink-2 max-sm:before:content-[attr(data-unit)]"
        >
          <Field path={p + field} label={`${unit} of the ${name} row`} hideLabel className={linked ? "" : "opacity-90"} />
        </div>
      ))}
      <button
        type="button"
        className="text-ink-3 hover:text-stop max-sm:col-span-3 max-sm:min-h-8 max-sm:min-w-8 max-sm:justify-self-end"
        aria-label={`Remove the ${name} row`}
        title="Remove this row (undo brings it back)"
        disabled={!exists}
        onClick={() =>
          void saver.all([...columns.map(([f]) => ({ path: p + f, text: "" })), { path: `${p}connection`, text: "" }], "row removed")
        }
      >
        ×
      </button>
    </>
  );
}

/** Corrections that would make the row fit, offered where the finding stands. */
function Corrections({ finding }: { finding: Answered }) {
  const { view, saver } = useDesk();
  const s = view.state;
  const first = s.findings.find(
    (f) =>
      f.gate === "plate" &&
      (f.severity === "stop" || f.severity === "look") &&
      f.code !== "not-readable" &&
      !f.code.includes("/") &&
      !f.kept,
  );
  if (first?.key !== finding.key || s.corrections.length === 0) return null;
  return (
    <div className="mt-1.5 border-t border-dotted border-tin-3 pt-1">
      <p>Likely misread, and would fit:</p>
      {s.corrections.map((c) => {
        const path = c.field === "poles" || c.field === "efficiency" ? `motor.${c.field}` : `motor.rows.${s.linked}.${c.field}`;
        const value = `${typed(c.to, 6)}${c.kind === "unit" || c.field === "power" ? ` ${c.unit}` : ""}`;
        return (
          <button
            key={c.field + c.to + c.unit}
            className="act flex! w-full items-baseline justify-between gap-2"
            onClick={() => void saver.all([{ path, text: value }], `finding "${finding.title}": ${c.why}`)}
          >
            <span>
              Correct {c.field.replace("_", " ")} to <span className="n">{Number(c.to.toPrecision(6))}</span> {c.unit}
            </span>
            <span className="c text-[12px] font-normal text-ink-3">{c.why}</span>
          </button>
        );
      })}
    </div>
  );
}

/** Poles worked out are confirmed by a person. */
function Confirm() {
  const { view, answer } = useDesk();
  const c = view.state.gates.find((g) => g.key === "plate")?.checks.find((x) => x.key === "plate/poles/confirmed");
  if (!c || c.do !== "confirm") return null;
  return (
    <section className="border-l-[5px] border-must bg-white py-2 pr-2.5 pl-3 text-[13px]">
      <h3 className="text-[14px]">
        <span className="text-must">●</span> {c.detail}
      </h3>
      <button className="act" onClick={() => void answer(c.key, "confirmed", { seen: c.basis })}>
        Confirm {view.state.poles} poles
      </button>
    </section>
  );
}

/** What the drive is told of this plate, in its own language. */
function Told() {
  const { view } = useDesk();
  const lines = view.state.lines.filter((l) => l.gate === "plate" && l.planned && l.voids).slice(0, 5);
  return (
    <section>
      <h3 className="mb-1 flex items-baseline justify-between">
        What the drive is told
        <Link className="act" to={`/drives/${view.id}/sheet`}>
          whole sheet
        </Link>
      </h3>
      {lines.length === 0 ? (
        <p className="border border-tin-3 bg-white p-3 text-[13px] text-ink-3">
          {view.family.name ? "Type the plate first." : "Choose the drive's family below."}
        </p>
      ) : (
        <table className="list w-full bg-white">
          <tbody>
            {lines.map((l) => (
              <tr key={l.code}>
                <td className="n font-semibold">{l.code}</td>
                <td>{l.name}</td>
                <td className="n text-right font-semibold">{l.set_to}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** The drive's own label: family and rated current. */
function Label() {
  const families = useQuery({ queryKey: ["families"], queryFn: () => ok(api.GET("/api/families")) });
  return (
    <form className="mt-4 border border-tin-3 bg-tin-0 p-3.5" aria-label="Drive label" onSubmit={(e) => e.preventDefault()}>
      <h3 className="mb-1.5">The drive's own label</h3>
      <div className="grid grid-cols-12 gap-2.5 max-lg:grid-cols-6 max-sm:grid-cols-4">
        <Choice path="rating.dialect" label="Family" options={(families.data ?? []).map((f) => [f.name, f.name])} className="col-span-2" />
        <Field path="rating.current" label="Rated A" className="col-span-2" />
        <Choice
          path="rating.duty"
          label="Duty"
          options={[
            ["heavy", "heavy"],
            ["normal", "normal"],
          ]}
          className="col-span-2"
        />
        <Field path="rating.type" label="Type" text className="col-span-2" />
        <Field path="rating.serial" label="Serial" text className="col-span-2" />
        <Field path="rating.firmware" label="Firmware" text className="col-span-2" />
      </div>
      <div className="mt-2 grid grid-cols-12 gap-2.5 max-sm:grid-cols-4">
        <Field path="tag" label="Tag" text className="col-span-2" />
        <Field path="machine" label="Machine" text className="col-span-3" />
        <Field path="where" label="Where" text className="col-span-3" />
        <Field path="notes" label="Notes" text className="col-span-4" />
      </div>
      <FamilyUpdate />
    </form>
  );
}

/** Photos of both plates beside what was typed. */
function Photos() {
  const { view, act } = useDesk();
  async function keep(of: string, file: File | undefined) {
    if (!file) return;
    await act(() =>
      sendBytes<View>(
        `/api/drives/${view.id}/attachments?entry=${newId()}&of=${of}&name=${encodeURIComponent(file.name)}`,
        file,
        "application/octet-stream",
      ),
    );
  }
  return (
    <section className="mt-4 grid grid-cols-2 gap-4 max-sm:grid-cols-1">
      {[
        ["motor-plate", "Photo of the motor plate"],
        ["drive-label", "Photo of the drive's label"],
      ].map(([of, name]) => (
        <div key={of}>
          <h3 className="mb-1">{name}</h3>
          {view.state.attachments
            .filter((a) => a.of === of)
            .map((a) => (
              <a key={a.id} href={`/api/attachments/${a.sha256}`} target="_blank" rel="noreferrer" className="mb-1.5 block">
                {a.type.startsWith("image/") ? (
                  <img src={`/api/attachments/${a.sha256}`} alt={`${name}: ${a.name}`} className="max-h-44 border border-tin-3" />
                ) : (
                  a.name
                )}
              </a>
            ))}
          <input
            type="file"
            aria-label={name}
            accept="image/*,.pdf"
            className="text-[13px]"
            onChange={(e) => void keep(of!, e.target.files?.[0])}
          />
        </div>
      ))}
    </section>
  );
}
