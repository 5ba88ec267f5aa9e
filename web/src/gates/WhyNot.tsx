import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { of } from "../app/asked";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { Crossbar } from "../picture/Crossbar";

const names: Record<string, string> = {
  "run-forward": "run forward",
  "run-reverse": "run reverse",
  "preset-0": "preset bit 0",
  "preset-1": "preset bit 1",
  "preset-2": "preset bit 2",
  coast: "second enable",
};

type About = "start" | "stands" | "unasked" | "direction" | "stop";

const questions: [About, string, string][] = [
  ["start", "Why does it not start?", "Every condition holds. Look again whether it runs and stands still."],
  ["stands", "It runs but stands still", "Every condition holds: look again at the reference, with run given."],
  ["unasked", "It runs, and nobody asked", "Every condition holds: it stays out of use until it is known why."],
  ["direction", "It turns the wrong way", "Every condition holds: look at gate Turn again."],
  ["stop", "It will not stop", "Every condition holds: it stays isolated until it is known why."],
];

/** The running conditions in order: what is known stands answered, the rest is asked until the missing one is named. */
export function WhyNot() {
  const { view, refresh } = useDesk();
  const [open, setOpen] = useState(false);
  const [said, setSaid] = useState<Record<string, boolean>>({});
  const [about, setAbout] = useState<About>("start");
  const why = useQuery({
    queryKey: ["why-not", view.id, view.seq, about],
    enabled: open,
    queryFn: () => ok(api.GET("/api/drives/{id}/why-not", { params: { path: { id: view.id }, query: { about } } })),
  });
  const [told, setTold] = useState<{ about: About; list?: Schemas["StartCondition"][]; bad?: string }>();
  const [reading, setReading] = useState(false);
  const here = told?.about === about ? told : undefined;
  const list = here?.list ?? why.data ?? [];
  const read = async () => {
    setReading(true);
    try {
      setTold({
        about,
        list: await ok(api.POST("/api/drives/{id}/why-not/read", { params: { path: { id: view.id }, query: { about } } })),
      });
    } catch (e) {
      setTold({ about, bad: say(e) });
    }
    setReading(false);
    refresh();
  };
  const state = (c: (typeof list)[number]) => (said[c.key] === undefined ? c.state : said[c.key] ? "holds" : "fails");
  const missing = list.find((c) => state(c) === "fails");
  const next = list.find((c) => state(c) === "ask");
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Why does it not start">
      <div className="flex flex-wrap items-center gap-3 px-3.5 py-2">
        {questions.map(([key, text]) => (
          <button
            key={key}
            className={`act ${open && about === key ? "!text-ink" : ""}`}
            aria-expanded={open && about === key}
            onClick={() => {
              setOpen(!(open && about === key));
              setAbout(key);
              setSaid({});
              setTold(undefined);
            }}
          >
            {text}
          </button>
        ))}
        {open && view.drive.link?.address && (
          <button className="act" onClick={() => void read()}>
            {reading ? "Reading…" : "Read what the drive tells"}
          </button>
        )}
        {open && Object.keys(said).length > 0 && (
          <button className="act" onClick={() => (setSaid({}), setTold(undefined))}>
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
            {questions.find(([k]) => k === about)![2]}
          </span>
        )}
      </div>
      {open && here?.bad && <p className="px-3.5 pb-2 text-stop">✕ {here.bad}</p>}
      {open && why.error && <p className="px-3.5 pb-2 text-stop">✕ {say(why.error)}</p>}
      {open && (
        <ol className="border-t border-tin-2">
          {list.map((c) => {
            const s = state(c);
            const now = c === (missing ?? next);
            return (
              <li
                key={c.key}
                data-condition={c.key}
                className={`grid grid-cols-[20px_minmax(0,1fr)_auto] items-center gap-2 border-b border-tin-2 px-3.5 py-1.5 last:border-b-0 ${now ? "bg-plum-0" : ""}`}
              >
                <span
                  className={`text-center font-bold ${s === "holds" ? "text-good" : s === "fails" ? "text-stop" : "text-ink-3"}`}
                  aria-hidden="true"
                >
                  {s === "holds" ? "✓" : s === "fails" ? "✕" : "○"}
                </span>
                <span className="text-[13.5px] leading-snug">
                  {c.text} <span className="sr-only">: {s}</span>
                  <span className="block text-[12.5px] text-ink-2">{c.how}</span>
                </span>
                <span className="flex gap-1">
                  <button
                    className="ghost !px-2.5 !py-1 text-[13px]"
                    aria-label={`It is so: ${c.text}`}
                    onClick={() => setSaid({ ...said, [c.key]: true })}
                  >
                    so
                  </button>
                  <button
                    className="ghost !px-2.5 !py-1 text-[13px]"
                    aria-label={`It is not so: ${c.text}`}
                    onClick={() => setSaid({ ...said, [c.key]: false })}
                  >
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
  const truth = useQuery({
    queryKey: ["truth", view.id, view.seq],
    enabled: open,
    queryFn: () => ok(api.GET("/api/drives/{id}/truth", { params: { path: { id: view.id } } })),
  });
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

const reacts: Record<string, [string, string]> = {
  "goes-on": ["○", "text-ink-3"],
  "other-speed": ["◐", "text-ink-2"],
  ramp: ["◣", "text-good"],
  coast: ["~", "text-warn"],
  trip: ["✕", "text-stop"],
  starts: ["▲", "text-warn"],
  stands: ["■", "text-good"],
};

/** Who gives what, and what happens when something stops it or comes back: worked out on the plan's own bench. */
export function WhatIf() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const q = useQuery({
    queryKey: ["what-if", view.id, view.seq],
    enabled: open,
    placeholderData: of(view.id),
    queryFn: () => ok(api.GET("/api/drives/{id}/what-if", { params: { path: { id: view.id } } })),
  });
  const w = q.isPlaceholderData ? undefined : q.data; // what the plan before would have done is no answer
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Who gives what, and what stops it">
      <div className="px-3.5 py-2">
        <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
          Who gives what, and what stops it?
        </button>
      </div>
      {open && q.isFetching && !w && <p className="px-3.5 pb-2 text-[13px] text-ink-3">Tried out on the bench…</p>}
      {open && q.error && <p className="px-3.5 pb-2 text-[13px] text-stop">✕ {say(q.error)}</p>}
      {open && w && (
        <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Commands and reactions">
          {w.gives.length > 0 && <Crossbar gives={w.gives} />}
          {w.gives.length > 0 && (
            <table className="list w-full bg-white text-[13px]" aria-label="Who gives what">
              <thead>
                <tr>
                  <th className="w-32" />
                  <th>In auto</th>
                  <th>In hand</th>
                </tr>
              </thead>
              <tbody>
                {w.gives.map((g) => (
                  <tr key={g.what}>
                    <th className="!text-ink-2">{g.what}</th>
                    <td className={g.auto.startsWith("nothing") || g.auto.includes("no input has") ? "text-warn" : ""}>{g.auto}</td>
                    <td>{g.hand}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {w.needs ? (
            <p className="px-3.5 py-2 text-[13px] text-ink-2">
              What stops it is worked out with {w.needs.startsWith("it ") ? `a plan that runs: ${w.needs}` : w.needs}.
            </p>
          ) : (
            <table className="list w-full bg-white text-[13px]" aria-label="What stops it">
              <caption className="border-t border-tin-3 bg-tin-0 px-3.5 py-1.5 text-left text-[12.5px] text-ink-2">{w.from}, then:</caption>
              <thead>
                <tr>
                  <th>What happens</th>
                  <th>The drive</th>
                  <th className="text-right">Stands after</th>
                  <th>Put back, with run held</th>
                </tr>
              </thead>
              <tbody>
                {w.rows.map((r) => (
                  <tr key={r.key} data-whatif={r.key} className={r.moves ? "bg-warn-0" : ""}>
                    <td>{r.what}</td>
                    <td>
                      <span className={`mr-1 inline-block w-4 text-center font-bold ${reacts[r.kind]?.[1]}`} aria-hidden="true">
                        {reacts[r.kind]?.[0]}
                      </span>
                      {r.does}
                    </td>
                    <td className="n text-right">
                      {r.kind === "stands" || r.kind === "starts"
                        ? ""
                        : r.stands_s == null
                          ? r.kind === "goes-on" || r.kind === "other-speed"
                            ? ""
                            : "> 60 s"
                          : `${r.stands_s.toFixed(1)} s`}
                    </td>
                    <td>
                      {r.moves && <b className="text-warn">▲ moves: </b>}
                      {r.back}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
      )}
    </section>
  );
}
