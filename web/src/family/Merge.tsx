import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { carries } from "./RowForm";

type Draft = Schemas["Draft"];
type Clash = Schemas["Clash"];

/** Says that somebody kept a newer version since the draft was begun, and takes its rows in; what both changed is chosen one by one. */
export function Merge({ draft, set }: { draft: Draft; set: (d: Draft) => void }) {
  const families = useQuery({
    queryKey: ["families"],
    queryFn: () => ok(api.GET("/api/families")),
    enabled: !!draft.base_name,
    refetchInterval: 30_000,
  });
  const [clashes, setClashes] = useState<Clash[]>([]);
  const [told, setTold] = useState("");
  const versions = families.data?.find((f) => f.name === draft.base_name)?.versions ?? [];
  const newer = versions.indexOf(draft.base_version ?? "") > 0 ? versions[0] : undefined;
  async function merge() {
    try {
      const m = await ok(api.POST("/api/families/draft/merge", { body: draft }));
      set(m.draft);
      setClashes(m.clashes);
      setTold(`Version ${newer} is taken in: ${m.taken} ${m.taken === 1 ? "change" : "changes"} of it, and all of this draft.`);
    } catch (e) {
      setTold(say(e));
    }
  }
  const settle = (c: Clash, theirs: boolean) => {
    if (theirs) set(taken(draft, c));
    setClashes(clashes.filter((x) => x !== c));
  };
  if (!newer && !told) return null;
  return (
    <section aria-label="A newer version" className="mb-2 border-l-[5px] border-warn bg-white px-3 py-2 text-[13.5px]">
      {newer ? (
        <p>
          <b className="font-semibold">Version {newer} was kept meanwhile.</b> This draft goes out from {draft.base_version}.{" "}
          <button className="act" onClick={() => void merge()}>
            Take its changes in
          </button>
        </p>
      ) : (
        <p role="status">{told}</p>
      )}
      {newer && told && <p className="text-stop">✕ {told}</p>}
      {clashes.length > 0 && (
        <>
          <p className="mt-1">
            {clashes.length} {clashes.length === 1 ? "was" : "were"} changed in both. This draft&rsquo;s stand until you choose.
          </p>
          <ul>
            {clashes.map((c) => (
              <li key={`${c.part} ${c.row} ${c.field}`} className="flex items-baseline gap-2 border-t border-tin-2 py-1">
                <span className="flex-1">
                  {place(draft, c)}: was <span className="n">{said(c.was)}</span>
                </span>
                <button className="act" onClick={() => settle(c, false)}>
                  keep <span className="n">{said(c.mine)}</span>
                </button>
                {can(c) ? (
                  <button className="act" onClick={() => settle(c, true)}>
                    take <span className="n">{said(c.theirs)}</span>
                  </button>
                ) : (
                  <span className="text-ink-3">
                    in version {draft.base_version}: {c.theirs}
                  </span>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** A cell is taken from here; a whole row or table is looked up in the other version. */
const can = (c: Clash) => c.field !== "";

/** Fields of a setting as its form calls them, where that is not their name. */
const labels: Record<string, string> = {
  min: "lowest",
  max: "highest",
  delivery: "delivered",
  short: "keypad",
  scale: "counts a unit",
  about: "what is to be known of it",
  motion: "could start motion",
  protects: "protects people or machine",
  running: "may be changed while running",
  full: "refused below full access",
};

/** A tick as a person says it. */
const said = (t: string) => (t === "true" ? "yes" : t === "false" ? "no" : t || "blank");

function place(draft: Draft, c: Clash): string {
  const column = draft.parts?.find((p) => p.key === c.part)?.columns.find((x) => x.key === c.field)?.label;
  const part = c.part ? (draft.parts?.find((p) => p.key === c.part)?.title ?? c.part) : c.row ? "Setting" : "";
  return [part, c.row, c.field && (column ?? labels[c.field] ?? carries(c.field))].filter(Boolean).join(", ");
}

/** The draft with a cell as the other version has it. */
function taken(draft: Draft, c: Clash): Draft {
  if (c.part)
    return {
      ...draft,
      parts: draft.parts?.map((p) => {
        if (p.key !== c.part) return p;
        const k = p.columns.findIndex((x) => x.key === c.field);
        return {
          ...p,
          rows: p.rows.map((r) => (p.single || r[0]?.trim() === c.row ? r.map((t, n) => (n === k ? c.theirs : t)) : r)),
        };
      }),
    };
  if (!c.row) return { ...draft, [c.field]: c.theirs };
  return {
    ...draft,
    rows: draft.rows.map((r) =>
      r.code.trim() === c.row ? { ...r, [c.field]: typeof r[c.field as keyof typeof r] === "boolean" ? c.theirs === "true" : c.theirs } : r,
    ),
  };
}
