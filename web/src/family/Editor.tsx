import { useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ok, say, type Schemas } from "../app/client";
import { Frame } from "../app/Frame";
import { Foot } from "../ui/Foot";
import { Picture, usePicture } from "./Beside";
import { Merge } from "./Merge";
import { PartTable } from "./PartTable";
import { EditorColumn } from "./EditorColumn";
import { carries } from "./RowForm";

type Draft = Schemas["Draft"];
type DraftRow = Schemas["DraftRow"];
type Check = Schemas["DraftCheck"];

/** Opens a family to be changed: it is kept under the next version, and drives stay with theirs. */
export function EditFamily() {
  const { name = "" } = useParams();
  const draft = useQuery({
    queryKey: ["family-draft", name],
    queryFn: () => ok(api.GET("/api/families/{name}/draft", { params: { path: { name } } })),
    staleTime: Infinity,
  });
  if (draft.error) return <p className="p-5 text-stop">✕ {say(draft.error)}</p>;
  return draft.data ? <Editor start={draft.data} /> : null;
}

/** A family as rows. Every change is checked at once; nothing is kept before it is whole. */
export function Editor({ start }: { start: Draft }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const key = `tingate.draft.${start.base_name ?? "new"}`;
  const [draft, setDraft] = useState<Draft>(start);
  const [left] = useState(() => kept(key));
  const [check, setCheck] = useState<Check | null>(null);
  const [at, setAt] = useState(0);
  const [what, setWhat] = useState(""); // the part beside the settings that is changed; empty: the settings
  const [only, setOnly] = useState<"all" | "roles" | "look" | "wrong">("all");
  const [error, setError] = useState("");
  const n = useRef(0);
  useEffect(() => {
    if (draft !== start) localStorage.setItem(key, JSON.stringify(draft)); // nothing typed is lost with the page
    const mine = ++n.current;
    void ok(api.POST("/api/families/draft", { body: draft }))
      .then((c) => mine === n.current && setCheck(c))
      .catch((e: unknown) => setError(say(e)));
  }, [draft, start, key]);
  const { picture, take, drop } = usePicture();
  const change = useCallback((i: number, part: Partial<DraftRow>) => setDraft((d) => withSetting(d, i, part)), []);
  const setPart = useCallback(
    (key: string, rows: string[][]) => setDraft((d) => ({ ...d, parts: withRows(d.parts ?? [], key, rows) })),
    [],
  );
  async function keep() {
    try {
      const c = await ok(api.POST("/api/families/draft", { params: { query: { keep: true } }, body: draft }));
      setCheck(c);
      if (!c.kept) return void client.invalidateQueries({ queryKey: ["families"] }); // somebody may have kept a version meanwhile
      localStorage.removeItem(key);
      await client.invalidateQueries({ queryKey: ["families"] });
      await client.invalidateQueries({ queryKey: ["family-draft"] });
      await client.invalidateQueries({ queryKey: ["family"] });
      void navigate(`/families/${c.kept.name}`);
    } catch (e) {
      setError(say(e));
    }
  }
  const wrong = new Set(check?.problems.filter((p) => !p.part).map((p) => p.row - 1));
  const part = draft.parts?.find((p) => p.key === what);
  const shown = draft.rows
    .map((r, i) => [r, i] as const)
    .filter(
      ([r, i]) => only === "all" || (only === "roles" && hasRole(r)) || (only === "look" && r.why) || (only === "wrong" && wrong.has(i)),
    );
  const head = (field: "name" | "version" | "about", label: string, cls: string) => (
    <label className={cls}>
      <span className="lbl">{label}</span>
      <input
        className={`cell text ${check?.problems.some((p) => !p.part && p.row === 0 && p.field === field) ? "bad" : ""}`}
        value={draft[field]}
        onChange={(e) => setDraft({ ...draft, [field]: e.target.value })}
      />
    </label>
  );
  return (
    <Frame
      where={
        <>
          {" "}
          /{" "}
          <Link to="/families" className="hover:underline">
            drive families
          </Link>{" "}
          / {draft.base_name ? `${draft.base_name} changed` : "new"}
        </>
      }
    >
      <div className="split">
        <main className="flex min-h-0 flex-col">
          <div className="px-5 pt-4">
            <h1>{draft.base_name ? `${draft.base_name}, to be changed` : "A new family"}</h1>
            <div className="my-2 grid grid-cols-12 gap-2.5">
              {head("name", "Name", "col-span-3")}
              {head("version", "Version", "col-span-2")}
              {head("about", "What is to be known of it", "col-span-7")}
            </div>
            <Merge draft={draft} set={setDraft} />
            {left && (
              <p className="mb-2 text-[13px]">
                A draft was left here unkept.{" "}
                <button className="act" onClick={() => setDraft(left)}>
                  Go on with it
                </button>
              </p>
            )}
            <div className="mb-2 flex flex-wrap items-center gap-1.5">
              <select className="cell text !w-auto" aria-label="What to change" value={what} onChange={(e) => setWhat(e.target.value)}>
                <option value="">Settings</option>
                {draft.parts?.map((p) => (
                  <option key={p.key} value={p.key}>
                    {p.within ? "– " : ""}
                    {p.title}
                    {p.single ? "" : `, ${p.rows.length}`}
                    {check?.problems.some((x) => x.part === p.key) ? " ✕" : ""}
                  </option>
                ))}
              </select>
              {!part && (
                <>
                  {(
                    [
                      ["all", `All ${draft.rows.length}`],
                      ["roles", `With a role ${draft.rows.filter(hasRole).length}`],
                      ["look", `To look at ${draft.rows.filter((r) => r.why).length}`],
                      ["wrong", `Wrong ${[...wrong].filter((w) => w >= 0).length}`],
                    ] as const
                  ).map(([k, words]) => (
                    <button
                      key={k}
                      aria-pressed={only === k}
                      className={`border border-tin-3 px-2.5 py-1 text-[13px] ${only === k ? "bg-ink text-white" : "bg-tin-0"}`}
                      onClick={() => setOnly(k)}
                    >
                      {words}
                    </button>
                  ))}
                  <label className="act ml-auto inline-flex cursor-pointer items-center focus-within:outline-2">
                    Picture beside…
                    <input
                      type="file"
                      className="sr-only"
                      accept="image/png,image/jpeg,image/webp"
                      onChange={(e) => take(e.target.files?.[0])}
                    />
                  </label>
                  <button
                    className="act"
                    onClick={() => {
                      setDraft({ ...draft, rows: [...draft.rows, { ...blank, from: picture ? `picture ${picture.name}` : undefined }] });
                      setAt(draft.rows.length);
                    }}
                  >
                    + another setting
                  </button>
                </>
              )}
            </div>
          </div>
          {picture && <Picture key={picture.url} {...picture} drop={drop} />}
          <div className="mx-5 min-h-0 flex-1 overflow-y-auto border border-b-0 border-tin-3 bg-white" tabIndex={-1}>
            {part ? (
              <PartTable
                key={part.key}
                part={part}
                outer={namesIn(draft, part.within)}
                faults={check?.problems.filter((p) => p.part === part.key) ?? []}
                change={(rows) => setPart(part.key, rows)}
              />
            ) : (
              <table className="list w-full">
                <caption className="sr-only">Settings of the draft</caption>
                <thead>
                  <tr>
                    <th className="sticky top-0">Code</th>
                    <th className="sticky top-0">Name</th>
                    <th className="sticky top-0">Unit</th>
                    <th className="sticky top-0">Range, delivery</th>
                    <th className="sticky top-0">Carries</th>
                  </tr>
                </thead>
                <tbody>
                  {shown.map(([r, i]) => (
                    <DraftLine key={i} row={r} now={i === at} wrong={wrong.has(i)} choose={setAt} i={i} />
                  ))}
                </tbody>
              </table>
            )}
          </div>
          <Foot>
            <button className="btn" disabled={!check || check.problems.length > 0} onClick={() => void keep()}>
              Keep this family
            </button>
            <span className="text-[13.5px]" role="status">
              {error ||
                (check
                  ? check.problems.length
                    ? `${check.problems.length} to put right first`
                    : `${check.settings} settings, ${check.roles} with a role`
                  : "Checking…")}
            </span>
          </Foot>
        </main>
        <EditorColumn
          part={part}
          row={draft.rows[at]}
          at={at}
          check={check}
          change={change}
          parts={draft.parts ?? []}
          setPart={setPart}
          remove={() => setDraft({ ...draft, rows: draft.rows.filter((_, k) => k !== at) })}
        />
      </div>
    </Frame>
  );
}

/** Whether a setting carries something, or does something. */
const hasRole = (r: DraftRow) => !!(r.intent || r.drives);

/** A draft with one setting changed. */
function withSetting(d: Draft, i: number, part: Partial<DraftRow>): Draft {
  const rows = d.rows.map((r, k) => (k === i ? byHand(r, part) : r));
  const codes = (l: DraftRow[]) => l.map((r) => r.code);
  return { ...d, rows, parts: "code" in part ? renamed(d.parts ?? [], "settings", codes(d.rows), codes(rows)) : d.parts };
}

/** A table with other rows. Where the name of one was changed, what lies within it goes along. */
function withRows(parts: Schemas["Section"][], key: string, rows: string[][]): Schemas["Section"][] {
  const was = parts.find((p) => p.key === key)?.rows ?? [];
  const first = (r: string[]) => r[0] ?? "";
  parts = parts.map((p) => (p.key === key ? { ...p, rows } : p));
  return was.length === rows.length ? renamed(parts, key, was.map(first), rows.map(first)) : parts;
}

/** Where the name of a row was changed, what lies within it goes along; never where another row has that name, too. */
function renamed(parts: Schemas["Section"][], key: string, was: string[], is: string[]): Schemas["Section"][] {
  const i = was.findIndex((name, n) => name !== is[n]);
  const [old, now] = [was[i] ?? "", is[i] ?? ""];
  if (!old || !now || was.includes(now) || was.indexOf(old) !== was.lastIndexOf(old)) return parts;
  return parts.map((p) => (p.within === key ? { ...p, rows: p.rows.map((r) => (r[0] === old ? [now, ...r.slice(1)] : r)) } : p));
}

/** The names of the rows to which those of a table belong. */
function namesIn(draft: Draft, within?: string): string[] {
  if (!within) return [];
  const names =
    within === "settings" ? draft.rows.map((r) => r.code) : (draft.parts?.find((p) => p.key === within)?.rows ?? []).map((r) => r[0] ?? "");
  return [...new Set(names)].filter(Boolean);
}

/** A row that was read and then changed says so: it is not any more what stands there. */
function byHand(r: DraftRow, part: Partial<DraftRow>): DraftRow {
  const says = Object.keys(part).every((k) => k === "why" || k === "sure" || k === "compared");
  if (part.from) return { ...r, ...part, from: [r.from, part.from].filter(Boolean).join("; ") };
  const from = r.from && !says && !r.from.startsWith("picture ") && !r.from.endsWith(byHandWords) ? r.from + byHandWords : r.from;
  return { ...r, ...part, from };
}
const byHandWords = ", changed by hand";

const blank: DraftRow = {
  code: "",
  group: "",
  name: "",
  short: "",
  kind: "number",
  unit: "",
  step: "1",
  min: "0",
  max: "100",
  delivery: "0",
  choices: "",
  register: "",
  running: false,
  full: false,
  motion: false,
  protects: false,
  intent: "",
  convention: "",
  sure: true,
  why: "",
};

function kept(key: string): Draft | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") as Draft | null;
  } catch {
    return null;
  }
}

const DraftLine = memo(function DraftLine({
  row: r,
  now,
  wrong,
  choose,
  i,
}: {
  row: DraftRow;
  now: boolean;
  wrong: boolean;
  choose: (i: number) => void;
  i: number;
}) {
  return (
    <tr className={now ? "bg-plum-0" : ""} onClick={() => choose(i)} data-draft={r.code}>
      <td className="n text-[13px] font-semibold whitespace-nowrap">
        <button className="text-left hover:underline" aria-label={`Change ${r.code || "the new setting"}`} onClick={() => choose(i)}>
          {r.code || "–"}
        </button>
      </td>
      <td className="text-[13px]">{r.name}</td>
      <td className="n text-[13px]">{r.unit}</td>
      <td className="n text-[12.5px] leading-tight">
        {r.kind === "number"
          ? `${r.min} to ${r.max}`
          : r.kind === "choice" || r.kind === "bits"
            ? `${r.choices.split(";").length} choices`
            : "text"}
        , {r.delivery || "blank"}
      </td>
      <td className="text-[13px] leading-tight">
        {wrong && <b className="text-stop">✕ wrong </b>}
        {hasRole(r) ? (
          <>
            <b className="font-semibold">{carries(r.intent || r.drives || "").replaceAll("-", " ")}</b>
            {r.convention && r.convention !== "choice" && <span className="block text-ink-2">{r.convention.replaceAll("-", " ")}</span>}
          </>
        ) : (
          <span className="text-ink-3">–</span>
        )}
        {r.why && <span className="block text-warn">▲ {r.why}</span>}
        {r.motion && <span className="block text-warn">▲ could start motion</span>}
      </td>
    </tr>
  );
});
