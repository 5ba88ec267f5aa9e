import type { ReactNode } from "react";
import type { Schemas } from "../app/client";

type DraftRow = Schemas["DraftRow"];
type Field = keyof DraftRow;

/** An intent as a person says it. */
export const carries = (intent: string) => intent.replace(/^choice\./, "").replace(/[._]/g, " ");

/** Where a row comes from, what was read from elsewhere, and whether a second person has compared it. */
function Origin({ row, change }: { row: DraftRow; change: (part: Partial<DraftRow>) => void }) {
  if (!row.from && !row.source && !row.read) return null;
  return (
    <div className="border-l-[3px] border-tin-4 pl-2.5 text-[13px] text-ink-2">
      {row.from && <p>Read from {row.from}.</p>}
      {row.source && <p>Row {row.source}.</p>}
      {row.read?.split("; ").map((r) => (
        <p key={r} className="text-warn">
          ▲ {r}
        </p>
      ))}
      {row.source && (
        <label className="flex items-start gap-2">
          <input
            type="checkbox"
            className="mt-0.5"
            checked={row.compared ?? false}
            onChange={(e) => change({ compared: e.target.checked })}
          />
          <span>I have compared this row with that. (It counts as a second look when I am not the one who took it.)</span>
        </label>
      )}
    </div>
  );
}

/** What a register holds. */
function Holds({ row, problem, change }: { row: DraftRow; problem?: Schemas["RowFault"]; change: (part: Partial<DraftRow>) => void }) {
  return (
    <label>
      <span className="lbl">It holds</span>
      <select
        className={`cell text ${problem ? "bad" : ""}`}
        value={row.register_type ?? ""}
        onChange={(e) => change({ register_type: e.target.value as DraftRow["register_type"] })}
      >
        {[
          ["", "16 bits"],
          ["s16", "16 bits, signed"],
          ["u32", "32 bits"],
          ["s32", "32 bits, signed"],
          ["text", "text"],
        ].map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
      {problem && <span className="block text-[12px] leading-tight text-stop">✕ wanted: {problem.want}</span>}
    </label>
  );
}

/** What a setting does that carries nothing of the plate, the limits or the references. */
function Does({
  row,
  doings,
  problem,
  change,
}: {
  row: DraftRow;
  doings: Schemas["Doing"][];
  problem?: Schemas["RowFault"];
  change: (part: Partial<DraftRow>) => void;
}) {
  const means = doings.find((d) => d.name === row.drives)?.means ?? [];
  return (
    <label>
      <span className="lbl">It does</span>
      <select
        className={`cell text ${problem ? "bad" : ""}`}
        value={row.drives ?? ""}
        onChange={(e) => change({ drives: e.target.value, why: "", sure: true })}
      >
        <option value="">nothing of the list: planned by nobody, kept as read</option>
        {doings
          .filter((d) => d.name === row.drives || d.kinds.includes(row.kind))
          .map((d) => (
            <option key={d.name} value={d.name}>
              {d.words}
            </option>
          ))}
      </select>
      {problem && <span className="block text-[12px] text-stop">✕ wanted: {problem.want}</span>}
      {means.length > 0 && <span className="block text-[12px] text-ink-3">Choices may mean: {means.join(", ")}</span>}
    </label>
  );
}

/** One setting of a draft, field by field, each fault where it stands. */
export function RowForm({
  row,
  roles,
  doings,
  problems,
  change,
  remove,
  children,
}: {
  row: DraftRow;
  roles: Schemas["Role"][];
  doings: Schemas["Doing"][];
  problems: Schemas["RowFault"][];
  change: (part: Partial<DraftRow>) => void;
  remove: () => void;
  children?: ReactNode; // what finds its register
}) {
  const problem = (f: string) => problems.find((p) => p.field === f);
  const text = (f: Field, label: string, cls = "") => {
    const p = problem(f);
    return (
      <label className={cls}>
        <span className="lbl">{label}</span>
        <input
          className={`cell text ${p ? "bad" : ""}`}
          value={(row[f] as string | undefined) ?? ""}
          aria-invalid={!!p}
          onChange={(e) => change({ [f]: e.target.value })}
        />
        {p && <span className="block text-[12px] leading-tight text-stop">✕ wanted: {p.want}</span>}
      </label>
    );
  };
  const tick = (f: Field, label: string) => (
    <label className="flex items-start gap-2 text-[13px]">
      <input type="checkbox" className="mt-0.5" checked={row[f] as boolean} onChange={(e) => change({ [f]: e.target.checked })} />
      <span>{label}</span>
    </label>
  );
  const role = roles.find((r) => r.intent === row.intent);
  const fits = roles.filter((r) => r.ways.some((w) => w.kind === row.kind));
  const named = [
    "code",
    "name",
    "group",
    "short",
    "unit",
    "step",
    "min",
    "max",
    "delivery",
    "choices",
    "register",
    "register_type",
    "scale",
    "voids",
    "moves",
    "off_value",
    "kind",
    "intent",
    "convention",
    "drives",
    "serves",
  ];
  return (
    <form className="flex flex-col gap-2" aria-label={`Setting ${row.code}`} onSubmit={(e) => e.preventDefault()}>
      <h2>Setting {row.code}</h2>
      <div className="grid grid-cols-4 gap-2">
        {text("code", "Code")}
        {text("name", "Name", "col-span-3")}
        <label>
          <span className="lbl">Kind</span>
          <select className="cell text" value={row.kind} onChange={(e) => change({ kind: e.target.value as DraftRow["kind"] })}>
            {["number", "choice", "bits", "text"].map((k) => (
              <option key={k}>{k}</option>
            ))}
          </select>
        </label>
        {text("unit", "Unit")}
        {text("delivery", "Delivered", "col-span-2")}
        {row.kind === "number" && (
          <>
            {text("step", "Step")}
            {text("min", "Lowest")}
            {text("max", "Highest", "col-span-2")}
          </>
        )}
        {row.kind === "text" && text("max", "Signs")}
        {text("group", "Group", "col-span-2")}
        {text("short", "Keypad")}
        {text("register", "Register")}
        {row.register && <Holds row={row} problem={problem("register_type")} change={change} />}
        {row.register && text("scale", "Counts a unit", "col-span-3")}
      </div>
      {children}
      <Origin row={row} change={change} />
      {(row.kind === "choice" || row.kind === "bits") && (
        <label>
          <span className="lbl">Choices: number = words → what it means</span>
          <textarea
            className={`cell text !h-24 ${problem("choices") ? "bad" : ""}`}
            value={row.choices.replaceAll("; ", "\n")}
            onChange={(e) => change({ choices: e.target.value.replaceAll("\n", "; ") })}
          />
          {problem("choices") && <span className="block text-[12px] text-stop">✕ wanted: {problem("choices")!.want}</span>}
          {role?.means && <span className="block text-[12px] text-ink-3">May mean: {role.means.replaceAll(",", ", ")}</span>}
        </label>
      )}
      <label>
        <span className="lbl">It carries</span>
        <select
          className={`cell text ${problem("intent") ? "bad" : ""}`}
          value={row.intent}
          onChange={(e) => {
            const r = roles.find((x) => x.intent === e.target.value);
            const convention = r?.ways.find((w) => w.kind === row.kind)?.name ?? "";
            change({ intent: e.target.value, convention, ...(e.target.value ? { drives: "" } : {}), why: "", sure: true });
          }}
        >
          <option value="">nothing that the sheet fills in</option>
          {fits.map((r) => (
            <option key={r.intent} value={r.intent}>
              {carries(r.intent)}
            </option>
          ))}
        </select>
        {problem("intent") && <span className="block text-[12px] text-stop">✕ wanted: {problem("intent")!.want}</span>}
      </label>
      {row.intent && (
        <label>
          <span className="lbl">Counted as</span>
          <select
            className={`cell text ${problem("convention") ? "bad" : ""}`}
            value={row.convention}
            onChange={(e) => change({ convention: e.target.value, why: "", sure: true })}
          >
            {role?.ways
              .filter((w) => w.kind === row.kind)
              .map((w) => (
                <option key={w.name} value={w.name}>
                  {w.name.replaceAll("-", " ")}: {w.about}
                </option>
              ))}
          </select>
        </label>
      )}
      {!row.intent && <Does row={row} doings={doings} problem={problem("drives") ?? problem("serves")} change={change} />}
      {row.why && (
        <p className="text-[13px] text-warn">
          ▲ {row.why}{" "}
          <button className="act" type="button" onClick={() => change({ why: "", sure: true })}>
            it is right as it stands
          </button>
        </p>
      )}
      <div className="grid grid-cols-2 gap-2">
        {text("voids", "A change voids")}
        {text("moves", "Goes along with it")}
        <label>
          <span className="lbl">A value acts</span>
          <select
            className="cell text"
            value={row.takes === "kept" ? "" : (row.takes ?? "")}
            onChange={(e) => change({ takes: e.target.value as DraftRow["takes"] })}
          >
            {[
              ["", "when it is kept"],
              ["dialled", "while it is dialled"],
              ["stopped", "once stopped"],
              ["power", "after power off and on"],
            ].map(([v, words]) => (
              <option key={v} value={v}>
                {words}
              </option>
            ))}
          </select>
        </label>
        {row.protects && text("off_value", "Off at the value")}
      </div>
      {tick("motion", "Could start motion: written over a link only with both torque-off channels open")}
      {tick("protects", "Protects people or machine: typed as the keypad shows it, never agreed by eye")}
      {tick("running", "May be changed while running")}
      {tick("full", "Refused below full access")}
      {problems
        .filter((p) => !named.includes(p.field))
        .map((p) => (
          <p key={p.field + p.want} className="text-[13px] text-stop">
            ✕ {p.field}: got {p.got || "nothing"}, wanted {p.want}
          </p>
        ))}
      <button className="act" type="button" onClick={remove}>
        Remove this setting
      </button>
    </form>
  );
}
