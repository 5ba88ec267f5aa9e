import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { of } from "../app/asked";
import { api, ok, say, sendBytes, type Schemas } from "../app/client";
import { Frame } from "../app/Frame";
import { newId } from "../app/ids";
import { useHere } from "../app/place";
import { Note } from "../ui/Finding";
import { Row } from "../ui/Figure";
import { Mark, markWord } from "../ui/Mark";
import { ReadingColumn } from "../ui/Reading";
import { ThisPlace } from "./ThisPlace";
import { NewDrive } from "./NewDrive";

type YardRow = Schemas["YardRow"];
const filters = [
  ["all", "All"],
  ["work", "In work"],
  ["barred", "Barred"],
  ["again", "Changed since"],
  ["archived", "Archived"],
] as const;
const page = 100;

export function Yard() {
  const { place } = useHere();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const [filter, setFilter] = useState<(typeof filters)[number][0]>("all");
  const [limit, setLimit] = useState(page);
  const [selected, setSelected] = useState("");
  const [about, setAbout] = useState(false);
  const [making, setMaking] = useState<{ like?: YardRow } | null>(null);
  const search = useRef<HTMLInputElement>(null);
  const yard = useQuery({
    queryKey: ["yard", place.id, text, filter, limit],
    queryFn: () => ok(api.GET("/api/places/{id}/yard", { params: { path: { id: place.id }, query: { q: text, filter, limit } } })),
    placeholderData: of(place.id),
    refetchInterval: (q) => (q.state.data?.anew.total ? 1000 : false),
  });
  const rows = yard.data?.rows ?? [];
  const row = rows.find((r) => r.id === selected) ?? rows[0];
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLElement && ["INPUT", "SELECT", "TEXTAREA"].includes(e.target.tagName);
      if (document.querySelector('[role="dialog"]') || e.ctrlKey || e.altKey || e.metaKey) return;
      if (e.key === "/" && !typing) {
        e.preventDefault();
        search.current?.focus();
      } else if (e.key.toLowerCase() === "n" && !typing) {
        e.preventDefault();
        setMaking({});
      } else if ((e.key === "ArrowDown" || e.key === "ArrowUp") && row && !(e.target instanceof HTMLSelectElement)) {
        e.preventDefault();
        const at = rows.indexOf(row) + (e.key === "ArrowDown" ? 1 : -1);
        if (rows[at]) setSelected(rows[at].id);
      } else if (
        e.key === "Enter" &&
        row &&
        (!typing || e.target === search.current) &&
        !(e.target instanceof HTMLAnchorElement) &&
        !(e.target instanceof HTMLButtonElement)
      ) {
        void navigate(`/drives/${row.id}`);
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  });
  const count = yard.data?.counts[filter] ?? 0;
  return (
    <Frame
      where={null}
      items={[
        { what: "New drive", go: () => setMaking({}) },
        { what: "This place: shifts, practice, zone", go: () => setAbout(true) },
        { what: "Drive families", go: () => void navigate("/families") },
        { what: "Export this place as a bundle", go: () => window.location.assign(`/api/places/${place.id}/bundle.zip`) },
      ]}
    >
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_348px] max-lg:grid-cols-1 max-lg:grid-rows-[minmax(0,3fr)_minmax(0,2fr)]">
        <main className="flex min-h-0 flex-col px-5 pt-4">
          <h1>Yard</h1>
          <p className="text-ink-2">
            {intro(yard.data?.counts, place.place.name)}{" "}
            <button className="act" onClick={() => setAbout(true)}>
              Shifts, practice, zone
            </button>
          </p>
          <div className="my-2.5 flex flex-wrap items-center gap-2">
            {filters.map(([key, name]) => (
              <button
                key={key}
                aria-pressed={filter === key}
                className={`border border-tin-3 px-3 py-1.5 [font-stretch:90%] ${filter === key ? "bg-ink text-white" : "bg-tin-0"}`}
                onClick={() => setFilter(key)}
              >
                {name} {yard.data?.counts[key] ?? ""}
              </button>
            ))}
            <input
              ref={search}
              data-enter="own"
              className="cell text max-w-56 flex-1"
              aria-label="Search by anything written on a drive"
              placeholder="search  /"
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            <button className="btn ml-auto" onClick={() => setMaking({})}>
              New drive <span className="opacity-80">N</span>
            </button>
          </div>
          {yard.data && yard.data.anew.total > 0 && (
            <p role="status" className="mb-2 text-[13px] text-ink-2">
              The rules have changed: drives are looked at anew, {yard.data.anew.done} of {yard.data.anew.total}.
            </p>
          )}
          {yard.error && <p className="text-stop">✕ {say(yard.error)}</p>}
          <div className="min-h-0 flex-1 overflow-y-auto pb-4" role="list" aria-label="Drives">
            <div
              className="c grid grid-cols-[92px_190px_130px_1fr] gap-3.5 px-3.5 py-1 text-[12px] text-ink-3 max-sm:hidden"
              aria-hidden="true"
            >
              <span>Tag</span>
              <span>Machine</span>
              <span>Gates</span>
              <span>Next</span>
            </div>
            {rows.map((r) => (
              <DriveRow key={r.id} row={r} gates={yard.data?.gates ?? []} selected={r.id === row?.id} select={() => setSelected(r.id)} />
            ))}
            {yard.data && rows.length === 0 && (
              <p className="bg-tin-0 p-5">
                {text || filter !== "all"
                  ? "No drive here matches."
                  : "No drive here yet. Press N, type its tag and machine, and begin with the plate."}
              </p>
            )}
            {rows.length < count && (
              <button className="ghost my-3" onClick={() => setLimit(limit + 200 > 500 ? 500 : limit + 200)}>
                {limit >= 500 ? `500 of ${count} shown: search for the others` : `Show more of ${count}`}
              </button>
            )}
          </div>
        </main>
        <ReadingColumn>
          {row ? <Summary row={row} gates={yard.data?.gates ?? []} copy={() => setMaking({ like: row })} /> : <h2>Nothing chosen</h2>}
          <TakeIn />
        </ReadingColumn>
      </div>
      <ThisPlace open={about} close={() => setAbout(false)} />
      <NewDrive key={making?.like?.id ?? "new"} open={!!making} like={making?.like} close={() => setMaking(null)} />
    </Frame>
  );
}

function intro(counts: Record<string, number> | undefined, place: string) {
  if (!counts) return "Reading…";
  const parts = [`${counts.all} ${counts.all === 1 ? "drive" : "drives"} at ${place}.`];
  if (counts.work) parts.push(`${counts.work} in work.`);
  if (counts.barred) parts.push(`${counts.barred} barred.`);
  return parts.join(" ");
}

const sum = (l: number[]) => l.reduce((a, b) => a + b, 0);

const waivedWord = (n?: number) => (n ? `, ${n} waived` : "");

function DriveRow({ row, gates, selected, select }: { row: YardRow; gates: string[]; selected: boolean; select: () => void }) {
  return (
    <div role="listitem">
      <Link
        to={`/drives/${row.id}/${row.next_gate || "plate"}`}
        onFocus={select}
        onMouseEnter={select}
        className={`grid min-h-[58px] grid-cols-[92px_190px_130px_1fr] items-center gap-3.5 border-b border-tin-3 px-3.5 py-1.5 max-sm:grid-cols-2 ${selected ? "bg-white shadow-[inset_5px_0_var(--color-plum)]" : "bg-tin-0"}`}
      >
        <span className="truncate text-[17px] font-bold [font-stretch:80%]">{row.tag || "–"}</span>
        <span className="font-semibold">
          {row.machine || "unnamed"}
          <small className="block text-[12.5px] font-normal text-ink-3 [font-stretch:85%]">
            {[row.where, row.about].filter(Boolean).join(" · ")}
          </small>
        </span>
        <span className="flex gap-px">
          {row.marks.map((m, i) => (
            <Mark key={gates[i]} mark={m} label={`${gates[i]} ${markWord(m)}${waivedWord(row.waived[i])}`} />
          ))}
        </span>
        <span className="text-[13px] leading-snug text-ink-2">
          <b className="block font-semibold text-ink">{row.next}</b>
          {row.next_detail}
          {sum(row.waived) > 0 && <span className="c ml-2 whitespace-nowrap text-ink-3">⊘ {sum(row.waived)} waived</span>}
        </span>
      </Link>
    </div>
  );
}

function Summary({ row, gates, copy }: { row: YardRow; gates: string[]; copy: () => void }) {
  const client = useQueryClient();
  const [error, setError] = useState("");
  async function archive() {
    try {
      await ok(
        api.PATCH("/api/drives/{id}", {
          params: { path: { id: row.id } },
          body: {
            id: newId(),
            edit: newId(),
            why: row.archived ? "brought back" : "archived",
            sets: [{ path: "archived", text: row.archived ? "false" : "true" }],
          },
        }),
      );
      await client.invalidateQueries({ queryKey: ["yard"] });
      await client.invalidateQueries({ queryKey: ["drive", row.id] });
    } catch (e) {
      setError(say(e));
    }
  }
  return (
    <>
      <h2>
        {row.tag} {row.machine}
      </h2>
      <div>
        {row.about && <Row label="Motor, family" value={row.about} />}
        {row.where && <Row label="Where" value={row.where} />}
        {gates.map((g, i) => (
          <Row key={g} label={g[0]!.toUpperCase() + g.slice(1)} value={markWord(row.marks[i] ?? "shut") + waivedWord(row.waived[i])} />
        ))}
      </div>
      {row.worst ? (
        <Note kind={row.worst} title={row.worst_title}>
          {row.next}. {row.next_detail}
          <Link className="act mt-1 block" to={`/drives/${row.id}/${row.next_gate || "plate"}`}>
            Open {row.next_gate}
          </Link>
        </Note>
      ) : (
        <Note kind={row.next_gate ? "note" : "holds"} title={row.next_gate ? "No finding stands" : "Kept, nothing changed since"} />
      )}
      <div className="flex flex-wrap gap-2">
        <button className="ghost" onClick={copy}>
          Copy to a like drive
        </button>
        <button className="ghost" onClick={() => void archive()}>
          {row.archived ? "Bring back" : "Archive"}
        </button>
      </div>
      {error && <p className="text-[13px] text-stop">✕ {error}</p>}
    </>
  );
}

/** Takes a bundle or a drive family into this data folder, from the Yard. */
function TakeIn() {
  const client = useQueryClient();
  const [told, setTold] = useState("");
  async function take(file: File | undefined) {
    if (!file) return;
    setTold("Reading…");
    try {
      if (/\.ya?ml$/.test(file.name)) {
        const f = await sendBytes<Schemas["FamilyHead"]>("/api/families", file, "application/yaml");
        setTold(`Family ${f.name} ${f.version} is known here now.`);
        await client.invalidateQueries();
        return;
      }
      const r = await sendBytes<Schemas["ImportResult"]>("/api/import", file, "application/zip");
      setTold(`${r.added} drives added, ${r.same} were here already. ${r.notes.join(" ")}`);
      await client.invalidateQueries();
    } catch (e) {
      setTold(`✕ ${say(e)}`);
    }
  }
  return (
    <div className="mt-auto border-t border-tin-3 pt-3 text-[13px]">
      <label>
        <span className="lbl">Take in a bundle, or a drive family</span>
        <input type="file" accept=".zip,.yaml,.yml" className="min-h-6 w-full" onChange={(e) => void take(e.target.files?.[0])} />
      </label>
      {told && <span role="status">{told}</span>}
      <Link className="act block" to="/families">
        Drive families
      </Link>
    </div>
  );
}
