import { useRef, useState } from "react";
import { Link } from "react-router";
import { api, ok, say, type Schemas } from "../app/client";
import { Frame } from "../app/Frame";
import { ReadingColumn } from "../ui/Reading";
import { Editor } from "./Editor";

type List = Schemas["List"];
type Asked = { mapping?: Record<string, number>; sheet?: string; counting?: List["counting"] };
/** What is read: a file as it is, or pasted text. */
type Source = { text: string } | { name: string; file: string };
const roles: [string, string][] = [
  ["code", "code"],
  ["name", "name"],
  ["unit", "unit"],
  ["min", "lowest"],
  ["max", "highest"],
  ["range", "range, both ends or choices"],
  ["step", "step"],
  ["delivery", "delivery value"],
  ["choices", "choices"],
  ["register", "register"],
  ["type", "what the register holds"],
  ["scale", "scale of the register"],
  ["group", "group or menu"],
  ["short", "text on the keypad"],
  ["running", "may change while running"],
  ["access", "access level"],
];
const countings: [NonNullable<List["counting"]>, string][] = [
  ["as-sent", "as they go over the line, from 0"],
  ["from-1", "from 1"],
  ["from-40001", "from 40001"],
  ["from-400001", "from 400001"],
];

/** A family out of what people have: a list, a workbook, a table out of a manual, a device description. Every proposal is looked at. */
export function NewFamily() {
  const [text, setText] = useState("");
  const [from, setFrom] = useState<Source | null>(null);
  const [list, setList] = useState<List | null>(null);
  const [draft, setDraft] = useState<Schemas["Draft"] | null>(null);
  const [error, setError] = useState("");
  // Only what was asked last counts, and nothing is gone on with while it is on its way.
  const asked = useRef(0);
  const [reading, setReading] = useState(false);
  async function read(source: Source, ask: Asked = {}) {
    const mine = ++asked.current;
    setReading(true);
    setFrom(source);
    try {
      const l = await ok(api.POST("/api/families/list", { body: { ...source, ...ask } }));
      if (mine !== asked.current) return;
      setList(l);
      setError("");
    } catch (e) {
      if (mine !== asked.current) return;
      setError(say(e));
      setList(null); // what an earlier file held is not the answer for this one
    } finally {
      if (mine === asked.current) setReading(false);
    }
  }
  async function take(file: File | undefined) {
    if (!file) return;
    if (file.size > 5 * 1024 * 1024) {
      setError(`${file.name}: got ${(file.size / 1024 / 1024).toFixed(1)} MB, wanted at most 5 MB`);
      return;
    }
    await read({ name: file.name, file: base64(await file.arrayBuffer()) });
  }
  if (draft) return <Editor start={draft} />;
  return (
    <Frame
      where={
        <>
          {" "}
          /{" "}
          <Link to="/families" className="hover:underline">
            drive families
          </Link>{" "}
          / new
        </>
      }
    >
      <div className="split">
        <main className="min-h-0 overflow-y-auto px-5 pt-4 pb-4">
          <h1>A family from what you have</h1>
          <p className="mb-3 max-w-[70ch] text-ink-2">
            A list of settings or registers (CSV, or a workbook, .xlsx), a device description (EDS, DCF), or a table copied out of the
            manual and pasted here. One setting on a line, with a code and a name at least.
          </p>
          <input
            type="file"
            aria-label="Settings list"
            accept=".csv,.tsv,.txt,.xlsx,.xlsm,.eds,.dcf"
            onChange={(e) => void take(e.target.files?.[0])}
          />
          <textarea
            aria-label="Settings list as text"
            className="cell text mt-2 !h-28 font-mono"
            placeholder={"Code;Name;Unit;Min;Max;Default\nA1;Motor power;kW;0,1;15;4,0"}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <button className="ghost mt-2" disabled={!text.trim()} onClick={() => void read({ text })}>
            Read what is pasted
          </button>
          {error && (
            <p role="alert" className="mt-2 text-stop">
              ✕ {error}
            </p>
          )}
          {list && from && !list.device && <Ways list={list} ask={(a) => void read(from, a)} />}
          {list && from && !list.device && (
            <Mapping list={list} map={(mapping) => void read(from, { mapping, sheet: list.sheet, counting: list.counting })} />
          )}
          {list?.device && <Objects list={list} />}
        </main>
        <ReadingColumn>
          <h2>What was read</h2>
          {list ? (
            <WhatWasRead list={list} reading={reading} go={() => setDraft(list.draft)} />
          ) : (
            <p className="text-[13px] text-ink-3">Nothing yet.</p>
          )}
        </ReadingColumn>
      </div>
    </Frame>
  );
}

function WhatWasRead({ list, reading, go }: { list: List; reading: boolean; go: () => void }) {
  const rows = list.draft.rows;
  const elsewhere = rows.filter((r) => r.read).length;
  return (
    <>
      <p className="text-[13.5px]">
        {list.device && <b className="font-semibold">{list.device}: </b>}
        {list.total} {list.device ? "objects" : "rows"}, {rows.length} settings. {rows.filter((r) => r.intent).length} seem to carry what
        the settings sheet fills in; {rows.filter((r) => r.why).length} need a look
        {elsewhere > 0 && `; of ${elsewhere} something was read from elsewhere than a cell of its own`}.
      </p>
      <button className="btn" disabled={reading || rows.length === 0} onClick={go}>
        Look at the {rows.length} settings
      </button>
      {list.notes.map((n) => (
        <p key={n} className="text-[13px] text-warn">
          ▲ {n}
        </p>
      ))}
      <Told what="left out" list={list.left} sign={list.device ? "–" : "▲"} cls={list.device ? "text-ink-2" : "text-warn"} />
      <Told what="put together" list={list.mended} sign="–" cls="text-ink-2" />
    </>
  );
}

/** A long list is shown by its beginning; all of it on asking. */
function Told({ what, list, sign, cls }: { what: string; list: string[]; sign: string; cls: string }) {
  const [all, setAll] = useState(false);
  const few = 12;
  return (
    <>
      {(all ? list : list.slice(0, few)).map((l) => (
        <p key={l} className={`text-[13px] ${cls}`}>
          {sign} {what}: {l}
        </p>
      ))}
      {!all && list.length > few && (
        <button className="act self-start" onClick={() => setAll(true)}>
          {list.length - few} more {what}
        </button>
      )}
    </>
  );
}

/** Which sheet of a workbook, and how a list counts its registers. */
function Ways({ list, ask }: { list: List; ask: (a: Asked) => void }) {
  return (
    <div className="mt-3 flex flex-wrap gap-4">
      {list.sheets && list.sheets.length > 1 && (
        <label>
          <span className="lbl">Sheet of the workbook</span>
          <select className="cell text" value={list.sheet} onChange={(e) => ask({ sheet: e.target.value })}>
            {list.sheets.map((s) => (
              <option key={s.name} value={s.name}>
                {s.name}, {s.rows} rows{s.hidden ? ", hidden" : ""}
              </option>
            ))}
          </select>
        </label>
      )}
      {list.counting && (
        <label>
          <span className="lbl">Its registers are counted</span>
          <select
            className="cell text"
            value={list.counting}
            onChange={(e) => ask({ mapping: list.mapping, sheet: list.sheet, counting: e.target.value as List["counting"] })}
          >
            {countings.map(([c, words]) => (
              <option key={c} value={c}>
                {words}
              </option>
            ))}
          </select>
        </label>
      )}
    </div>
  );
}

const bits: Record<string, string> = {
  bool: "yes or no",
  u8: "8 bits",
  s8: "8 bits, signed",
  u16: "16 bits",
  s16: "16 bits, signed",
  u32: "32 bits",
  s32: "32 bits, signed",
  text: "text",
};

/** The objects of a device description that hold settings. */
function Objects({ list }: { list: List }) {
  return (
    <table className="list mt-4 border border-tin-3 bg-white">
      <caption className="sr-only">Objects that hold settings</caption>
      <thead>
        <tr>
          <th>Object</th>
          <th>Name</th>
          <th>Holds</th>
          <th>Known from</th>
        </tr>
      </thead>
      <tbody>
        {list.draft.rows.slice(0, 200).map((r) => (
          <tr key={r.code}>
            <td className="n text-[13px] font-semibold">{r.code}</td>
            <td className="text-[13px]">{r.name}</td>
            <td className="n text-[12.5px]">
              {bits[r.object_type ?? ""]}
              {r.unit && `, ${r.unit}`}
            </td>
            <td className="text-[13px]">{r.read ? "the drive profile" : "the description only"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A file's bytes for the way in JSON. */
function base64(b: ArrayBuffer): string {
  let text = "";
  const bytes = new Uint8Array(b);
  for (let i = 0; i < bytes.length; i += 0x8000) text += String.fromCharCode(...bytes.subarray(i, i + 0x8000));
  return btoa(text);
}

function Mapping({ list, map }: { list: List; map: (m: Record<string, number>) => void }) {
  const of = (col: number) => Object.entries(list.mapping).find(([, c]) => c === col)?.[0] ?? "";
  function change(col: number, role: string) {
    const m = Object.fromEntries(Object.entries(list.mapping).filter(([r, c]) => c !== col && r !== role));
    if (role) m[role] = col;
    map(m);
  }
  return (
    <div className="mt-4 overflow-x-auto">
      <h3 className="mb-1">What stands in each column</h3>
      <table className="list border border-tin-3 bg-white">
        <thead>
          <tr>
            {list.columns.map((c, i) => (
              <th key={i} className="min-w-28 align-top">
                <span className="block">{c}</span>
                <select
                  className="cell text !h-[28px] !text-[13px]"
                  aria-label={`Column ${c} holds`}
                  value={of(i)}
                  onChange={(e) => change(i, e.target.value)}
                >
                  <option value="">not used</option>
                  {roles.map(([r, name]) => (
                    <option key={r} value={r}>
                      {name}
                    </option>
                  ))}
                </select>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {list.preview.map((r, i) => (
            <tr key={i}>
              {list.columns.map((_, k) => (
                <td key={k} className="n text-[12.5px]">
                  {r[k]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
