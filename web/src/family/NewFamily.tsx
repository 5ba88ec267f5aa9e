import { useRef, useState } from "react";
import { Link } from "react-router";
import { api, ok, say, type Schemas } from "../app/client";
import { Frame } from "../app/Frame";
import { ReadingColumn } from "../ui/Reading";
import { Editor } from "./Editor";

type List = Schemas["List"];
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
  ["group", "group or menu"],
  ["short", "text on the keypad"],
  ["running", "may change while running"],
  ["access", "access level"],
];

/** A family out of a settings list: read the list, map its columns, look at every proposal, keep it. */
export function NewFamily() {
  const [text, setText] = useState("");
  const [list, setList] = useState<List | null>(null);
  const [draft, setDraft] = useState<Schemas["Draft"] | null>(null);
  const [error, setError] = useState("");
  // Only what was asked last counts, and nothing is gone on with while it is on its way.
  const asked = useRef(0);
  const [reading, setReading] = useState(false);
  async function read(t: string, mapping?: Record<string, number>) {
    const mine = ++asked.current;
    setReading(true);
    try {
      const l = await ok(api.POST("/api/families/list", { body: { text: t, mapping } }));
      if (mine !== asked.current) return;
      setList(l);
      setError("");
    } catch (e) {
      if (mine === asked.current) setError(say(e));
    } finally {
      if (mine === asked.current) setReading(false);
    }
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
          <h1>A family from a settings list</h1>
          <p className="mb-3 max-w-[70ch] text-ink-2">
            Take the list of settings as a spreadsheet saves it (CSV with commas, semicolons or tabs), or paste it. One setting on a line,
            with a code and a name at least.
          </p>
          <input
            type="file"
            aria-label="Settings list"
            accept=".csv,.tsv,.txt"
            onChange={(e) =>
              void e.target.files?.[0]?.arrayBuffer().then((b) => {
                const t = decode(b);
                setText(t);
                void read(t);
              })
            }
          />
          <textarea
            aria-label="Settings list as text"
            className="cell text mt-2 !h-28 font-mono"
            placeholder={"Code;Name;Unit;Min;Max;Default\nA1;Motor power;kW;0,1;15;4,0"}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <button className="ghost mt-2" disabled={!text.trim()} onClick={() => void read(text)}>
            Read the list
          </button>
          {error && (
            <p role="alert" className="mt-2 text-stop">
              ✕ {error}
            </p>
          )}
          {list && <Mapping list={list} map={(m) => void read(text, m)} />}
        </main>
        <ReadingColumn>
          <h2>What was read</h2>
          {list ? (
            <>
              <p className="text-[13.5px]">
                {list.total} rows, {list.draft.rows.length} settings. {list.draft.rows.filter((r) => r.intent).length} seem to carry what
                the settings sheet fills in; {list.draft.rows.filter((r) => r.why).length} need a look.
              </p>
              {list.left.map((l) => (
                <p key={l} className="text-[13px] text-warn">
                  ▲ left out: {l}
                </p>
              ))}
              <button className="btn" disabled={reading || list.draft.rows.length === 0} onClick={() => setDraft(list.draft)}>
                Look at the {list.draft.rows.length} settings
              </button>
            </>
          ) : (
            <p className="text-[13px] text-ink-3">Nothing yet.</p>
          )}
        </ReadingColumn>
      </div>
    </Frame>
  );
}

/** UTF-8, UTF-16 with its mark, or Latin-1. */
function decode(b: ArrayBuffer): string {
  const head = new Uint8Array(b.slice(0, 2));
  if (head[0] === 0xff && head[1] === 0xfe) return new TextDecoder("utf-16le").decode(b);
  if (head[0] === 0xfe && head[1] === 0xff) return new TextDecoder("utf-16be").decode(b);
  try {
    return new TextDecoder("utf-8", { fatal: true }).decode(b);
  } catch {
    return new TextDecoder("latin1").decode(b);
  }
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
