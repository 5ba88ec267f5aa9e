import { useEffect, useRef } from "react";
import type { Schemas } from "../app/client";

type Part = Schemas["Section"];

const narrow = new Set(["of", "frame", "code", "type", "sign", "name", "severity", "phases", "register", "from", "to", "clears"]);

/** What a family says beside its settings, as a table to be typed into, or to paste a spreadsheet's cells into. */
export function PartTable({
  part,
  outer,
  faults,
  change,
}: {
  part: Part;
  outer: string[]; // names of the rows to which these belong
  faults: Schemas["RowFault"][];
  change: (rows: string[][]) => void;
}) {
  const rows = part.single ? part.rows : [...part.rows, part.columns.map(() => "")];
  const box = useRef<HTMLTableSectionElement>(null);
  function set(i: number, k: number, text: string) {
    const next = rows.map((r, n) => (n === i ? r.map((c, m) => (m === k ? text : c)) : r));
    change(part.single ? next : trimmed(next));
  }
  function paste(e: React.ClipboardEvent, i: number, k: number) {
    const text = e.clipboardData.getData("text/plain");
    if (part.single || !/[\t\n]/.test(text.trim())) return;
    e.preventDefault();
    const next = rows.map((r) => [...r]);
    text
      .replace(/\r/g, "")
      .replace(/\n$/, "")
      .split("\n")
      .forEach((line, n) => {
        next[i + n] ??= part.columns.map(() => "");
        line.split("\t").forEach((cell, m) => {
          if (k + m < part.columns.length) next[i + n]![k + m] = cell.trim();
        });
      });
    change(trimmed(next));
  }
  if (part.single) return <Single part={part} faults={faults} set={(k, text) => set(0, k, text)} />;
  return (
    <table className="list w-full">
      <caption className="sr-only">
        {part.title}
        <datalist id={`of-${part.key}`}>
          {outer.map((name) => (
            <option key={name} value={name} />
          ))}
        </datalist>
      </caption>
      <thead>
        <tr>
          {part.columns.map((c) => (
            <th key={c.key} className={`sticky top-0 ${narrow.has(c.key) ? "w-24" : ""}`}>
              {c.label}
            </th>
          ))}
          <th className="sticky top-0">
            <span className="sr-only">Take away</span>
          </th>
        </tr>
      </thead>
      <tbody ref={box}>
        {rows.map((r, i) => (
          <tr key={i}>
            {part.columns.map((c, k) => (
              <td key={c.key} className="!p-0.5">
                <Cell
                  column={c}
                  text={r[k] ?? ""}
                  list={part.within && k === 0 ? `of-${part.key}` : undefined}
                  name={`${c.label}, row ${i + 1}`}
                  fault={faults.find((f) => f.row === i + 1 && f.field === c.key)}
                  set={(text) => set(i, k, text)}
                  paste={(e) => paste(e, i, k)}
                />
              </td>
            ))}
            <td className="!p-0.5">
              {i < part.rows.length && (
                <button
                  className="act min-h-7 min-w-7"
                  aria-label={`Take row ${i + 1} away`}
                  onClick={() => {
                    change(part.rows.filter((_, n) => n !== i));
                    box.current?.querySelector<HTMLElement>("input,select")?.focus();
                  }}
                >
                  ✕
                </button>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Without the empty rows at the end: one stands there always, to be typed into. */
function trimmed(rows: string[][]): string[][] {
  let n = rows.length;
  while (n > 0 && rows[n - 1]!.every((c) => !c.trim())) n--;
  return rows.slice(0, n);
}

function Single({ part, faults, set }: { part: Part; faults: Schemas["RowFault"][]; set: (k: number, text: string) => void }) {
  return (
    <div className="grid grid-cols-3 gap-3 p-4">
      {part.columns.map((c, k) => {
        const fault = faults.find((f) => f.field === c.key);
        return (
          <label key={c.key} className={c.yes ? "flex items-end gap-2 pb-2" : ""}>
            {!c.yes && <span className="lbl">{c.label.replace(/^./, (x) => x.toUpperCase())}</span>}
            <Cell column={c} text={part.rows[0]?.[k] ?? ""} fault={fault} set={(text) => set(k, text)} />
            {c.yes && <span className="text-[13px]">{c.label}</span>}
            {fault && <span className="block text-[12px] leading-tight text-stop">✕ wanted: {fault.want}</span>}
          </label>
        );
      })}
    </div>
  );
}

function Cell({
  column,
  text,
  name,
  list,
  fault,
  set,
  paste,
}: {
  column: Schemas["SectionColumn"];
  list?: string;
  text: string;
  name?: string;
  fault?: Schemas["RowFault"];
  set: (text: string) => void;
  paste?: (e: React.ClipboardEvent) => void;
}) {
  const title = fault ? `wanted: ${fault.want}` : undefined;
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => input.current?.setCustomValidity(fault ? "wrong" : ""), [fault]);
  if (column.yes)
    return (
      <input
        type="checkbox"
        aria-label={name}
        title={title}
        checked={/^(y|yes|x|true|1)$/i.test(text)}
        onChange={(e) => set(e.target.checked ? "yes" : "")}
      />
    );
  if (column.choices.length > 0)
    return (
      <select
        className={`cell text ${fault ? "bad" : ""}`}
        aria-label={name}
        aria-invalid={!!fault}
        title={title}
        value={text}
        onChange={(e) => set(e.target.value)}
      >
        <option value="">–</option>
        {text && !column.choices.includes(text) && <option>{text}</option>}
        {column.choices.map((c) => (
          <option key={c} value={c}>
            {c.replaceAll("-", " ")}
          </option>
        ))}
      </select>
    );
  return (
    <input
      ref={input}
      className={`cell text !min-w-14 ${fault ? "bad" : ""}`}
      aria-label={name}
      aria-invalid={!!fault}
      title={title}
      list={list}
      value={text}
      onPaste={paste}
      onChange={(e) => set(e.target.value)}
    />
  );
}
