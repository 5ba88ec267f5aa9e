import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";

const names: Record<string, string> = { "run-forward": "run forward", "run-reverse": "run reverse", "preset-0": "preset bit 0", "preset-1": "preset bit 1", "preset-2": "preset bit 2", coast: "second enable" };

/** The running conditions in order: what is known stands answered, the rest is asked until the missing one is named. */
export function WhyNot() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const [said, setSaid] = useState<Record<string, boolean>>({});
  const why = useQuery({ queryKey: ["why-not", view.id, view.seq], enabled: open, queryFn: () => ok(api.GET("/api/drives/{id}/why-not", { params: { path: { id: view.id } } })) });
  const list = why.data ?? [];
  const state = (c: (typeof list)[number]) => (said[c.key] === undefined ? c.state : said[c.key] ? "holds" : "fails");
  const missing = list.find((c) => state(c) === "fails");
  const next = list.find((c) => state(c) === "ask");
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Why does it not start">
      <div className="flex flex-wrap items-center gap-3 px-3.5 py-2">
        <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
          Why does it not start?
        </button>
        {open && Object.keys(said).length > 0 && (
          <button className="act" onClick={() => setSaid({})}>
            Begin again
          </button>
        )}
        {open && missing && (
          <span className="text-[13.5px] font-semibold text-stop" role="status">
            ✕ {missing.text}: not so. <span className="font-normal text-ink">{missing.do}</span>
          </span>
        )}
        {open && !missing && !next && list.length > 0 && (
          <span className="text-[13.5px]" role="status">
            Every condition holds. Runs but stands still: the reference, a jam, a brake. Will not stop: the stop's wiring, a second place that gives run.
          </span>
        )}
      </div>
      {open && why.error && <p className="px-3.5 pb-2 text-stop">✕ {say(why.error)}</p>}
      {open && (
        <ol className="border-t border-tin-2">
          {list.map((c) => {
            const s = state(c);
            const now = c === (missing ?? next);
            return (
              <li key={c.key} data-condition={c.key} className={`grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-2 border-b border-tin-2 px-3.5 py-1.5 last:border-b-0 ${now ? "bg-plum-0" : ""}`}>
                <span className={`text-center font-bold ${s === "holds" ? "text-good" : s === "fails" ? "text-stop" : "text-ink-3"}`} aria-hidden="true">
                  {s === "holds" ? "✓" : s === "fails" ? "✕" : "○"}
                </span>
                <span className="text-[13.5px] leading-snug">
                  {c.text} <span className="sr-only">: {s}</span>
                  <span className="block text-[12.5px] text-ink-2">{c.how}</span>
                </span>
                <span className="flex gap-1">
                  <button className="ghost !px-2.5 !py-1 text-[13px]" aria-label={`It is so: ${c.text}`} onClick={() => setSaid({ ...said, [c.key]: true })}>
                    so
                  </button>
                  <button className="ghost !px-2.5 !py-1 text-[13px]" aria-label={`It is not so: ${c.text}`} onClick={() => setSaid({ ...said, [c.key]: false })}>
                    not so
                  </button>
                </span>
              </li>
            );
          })}
        </ol>
      )}
    </section>
  );
}

/** Every combination of the inputs and what the drive then does: what will move is said before it is done. */
export function TruthOfInputs() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const truth = useQuery({ queryKey: ["truth", view.id, view.seq], enabled: open, queryFn: () => ok(api.GET("/api/drives/{id}/truth", { params: { path: { id: view.id } } })) });
  const t = truth.data;
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Truth table of the inputs">
      <div className="px-3.5 py-2">
        <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
          What do its inputs do, in every combination?
        </button>
      </div>
      {open && truth.error && <p className="px-3.5 pb-2 text-[13px]">{say(truth.error)}</p>}
      {open && t && (
        <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Combinations">
          <table className="list w-full bg-white">
            <thead>
              <tr>
                {t.inputs.map((i) => (
                  <th key={i.terminal} className="text-center">
                    <span className="n text-ink">{i.terminal}</span> {names[i.function] ?? i.function}
                  </th>
                ))}
                <th>The drive then ({t.asked})</th>
              </tr>
            </thead>
            <tbody>
              {t.rows.map((r, k) => (
                <tr key={k} className={r.moves ? "bg-warn-0" : ""}>
                  {r.closed.map((on, i) => (
                    <td key={i} className={`text-center ${on ? "font-bold" : "text-ink-3"}`}>
                      {on ? "closed" : "open"}
                    </td>
                  ))}
                  <td className="text-[13px]">
                    {r.moves && <b className="text-warn">▲ moves: </b>}
                    {r.does}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          {t.more > 0 && <p className="px-3.5 py-1 text-[12.5px] text-ink-3">{t.more} more inputs have a function; they are open here.</p>}
        </div>
      )}
    </section>
  );
}
