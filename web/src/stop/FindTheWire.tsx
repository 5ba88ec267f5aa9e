import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type KeyboardEvent } from "react";
import { of } from "../app/asked";
import { api, ok } from "../app/client";
import { useActs, useDesk } from "../app/drive";
import { useWith } from "../app/Instruments";
import { useTyped } from "../app/outbox";
import { useHere } from "../app/place";
import type { StopView } from "./useStop";

/** Where a fault can be, and what parts the suspects best. */
export function FindTheWire({ v, show }: { v: StopView; show: (test: string, step: number) => void }) {
  const { place } = useHere();
  const [why, setWhy] = useState(false);
  const d = v.diagnosis;
  if (!d) return null;
  const where = (part: string) => place.place.circuits && v.parts.find((p) => p.id === part)?.name;
  return (
    <section aria-label="Where it can be" className="flex flex-col gap-2">
      <h2>Where it can be</h2>
      {d.classes.length === 0 && (
        <div className="border-l-[5px] border-stop bg-white px-3 py-2 text-[13px]">
          <b>No single fault explains all of it.</b>{" "}
          {d.repeat.length > 0
            ? `Repeat first: ${d.repeat.slice(0, 2).join("; then ")}. Without it the rest goes together.`
            : `Repeat what differs: ${d.against[0]}. Then look for two at once.`}
        </div>
      )}
      {d.classes.slice(0, 4).map((c, i) => (
        <div key={c.texts[0]} className={`border-l-[5px] bg-white px-3 py-2 text-[13px] ${i === 0 ? "border-stop" : "border-warn-bar"}`}>
          <div className="flex items-baseline justify-between gap-2">
            <b>{c.texts[0]}</b>
            <span className="n shrink-0 font-semibold">{Math.round(c.share * 100)} %</span>
          </div>
          {c.texts.slice(1, 4).map((t) => (
            <div key={t} className="text-ink-2">
              or: {t}
            </div>
          ))}
          {c.texts.length > 4 && <div className="text-ink-3">and {c.texts.length - 4} that no test parts from these</div>}
        </div>
      ))}
      {d.classes.length > 4 && <p className="text-[12.5px] text-ink-3">and {d.classes.length - 4} more</p>}
      {d.classes.length > 0 && (
        <p className="text-[12.5px] text-ink-3">
          {d.excluded} single faults are out.{" "}
          <button className="act" aria-expanded={why} onClick={() => setWhy(!why)}>
            Why?
          </button>
        </p>
      )}
      {why && (
        <div className="border border-tin-3 bg-white px-3 py-2 text-[12.5px] text-ink-2">
          <p>
            Each fault of every wire and part is played through all tests that were done. Out is what would have shown something else
            anywhere; in is what gives all of this:
          </p>
          <ul className="mt-1 list-disc pl-4">
            {d.against.slice(0, 6).map((t) => (
              <li key={t}>{t}</li>
            ))}
          </ul>
          <WhyNot />
        </div>
      )}
      {(d.measure ?? d.continuity ?? d.next) && <h2>Measure next</h2>}
      {d.continuity && v.ohms_key && (
        <Probe
          name={v.ohms_key}
          title={`Dead: ${d.continuity.a} to ${d.continuity.b}${d.continuity.held ? `, with ${d.continuity.held} ${where(d.continuity.held) ?? ""} worked` : ""}`}
          detail={`24 V off and the drive proved dead. Joined leaves ${d.continuity.if_joined}, open leaves ${d.continuity.if_open}.`}
          unit="Ω"
          best={!d.measure || d.continuity.left <= d.measure.left + 1e-9}
        />
      )}
      {d.measure && v.volts_key && (
        <Probe
          name={v.volts_key}
          title={`Live: ${d.measure.at} against ${d.measure.against}`}
          detail={`By a competent person with the right meter, as after step ${d.measure.step + 1} of "${v.tests.find((t) => t.key === d.measure!.test)?.title}". Parts them into ${d.measure.groups}: ${volts(d.measure.expected_v)}.`}
          unit="V"
          best={!d.continuity || d.measure.left < d.continuity.left - 1e-9}
          look={() => show(d.measure!.test, d.measure!.step)}
        />
      )}
      {d.next && (
        <div className="border-l-[5px] border-must bg-white px-3 py-2 text-[13px]">
          <b>Or a test: {d.next.title}</b>
          <div className="text-ink-2">
            It parts what is left into {d.next.parts}.{" "}
            <button className="act" onClick={() => show(d.next!.test, 0)}>
              Open it
            </button>
          </div>
        </div>
      )}
      <PairsSearch />
      <p className="text-[12.5px] text-ink-3">
        Never bridge a device as a mend, never lift an interlock on a live machine, never reset from inside.
      </p>
    </section>
  );
}

/** A fault that somebody has in mind: why it is out, or that it stays. */
function WhyNot() {
  const { view } = useDesk();
  const [words, setWords] = useState("");
  const q = words.trim();
  const why = useQuery({
    queryKey: ["stop-why", view.id, view.seq, q],
    enabled: q.length > 1,
    placeholderData: of(view.id),
    queryFn: () => ok(api.GET("/api/drives/{id}/stop/why", { params: { path: { id: view.id }, query: { q } } })),
  });
  return (
    <div className="mt-2">
      <label>
        <span className="lbl">And why not this one? Words of it, like wire 11, or S2</span>
        <input className="cell text !h-[30px]" value={words} onChange={(e) => setWords(e.target.value)} />
      </label>
      {q.length > 1 &&
        !why.isPlaceholderData &&
        why.data?.map((r) => (
          <p key={r.text} className="mt-1">
            <b className={r.stays ? "text-stop" : ""}>{r.stays ? "● stays: " : "○ out: "}</b>
            {r.text} <span className="text-ink-3">{r.why}</span>
          </p>
        ))}
      {q.length > 1 && why.data?.length === 0 && <p className="mt-1">No single fault is called so.</p>}
    </div>
  );
}

/** Which voltages are expected, and how many suspects give each. */
function volts(expected: Record<string, number>): string {
  const by = new Map<string, number>();
  for (const v of Object.values(expected)) {
    const k = `${Math.round(v)} V`;
    by.set(k, (by.get(k) ?? 0) + 1);
  }
  return [...by].map(([k, n]) => `${k} (${n})`).join(", ");
}

function Probe({
  name,
  title,
  detail,
  unit,
  best,
  look,
}: {
  name: string;
  title: string;
  detail: string;
  unit: string;
  best: boolean;
  look?: () => void;
}) {
  const { answer, id } = useActs();
  const meter = useWith("meter");
  const { typed, type, sent } = useTyped(id, `measure.${name}`);
  const press = (e: KeyboardEvent) => {
    if (e.key !== "Enter" || !typed?.trim()) return;
    e.preventDefault();
    void answer(name, typed, { with: meter }).then((done) => done && sent(typed));
  };
  return (
    <div className={`border-l-[5px] bg-white px-3 py-2 text-[13px] ${best ? "border-must" : "border-tin-3"}`} data-probe={unit}>
      <div className="flex items-baseline justify-between gap-2">
        <b>{title}</b>
        {best && <span className="shrink-0 text-[12px] font-bold text-must">● parts best</span>}
      </div>
      <p className="text-ink-2">{detail}</p>
      <div className="mt-1 flex items-center gap-2">
        <input
          className="cell !h-[30px] !w-28 text-right"
          aria-label={`${title}, ${unit}`}
          data-measure={name}
          placeholder={unit === "Ω" ? "Ω or open" : "V"}
          value={typed ?? ""}
          onChange={(e) => type(e.target.value)}
          onKeyDown={press}
        />
        <span className="kb">Enter</span>
        {look && (
          <button className="act" onClick={look}>
            show the circuit so
          </button>
        )}
      </div>
    </div>
  );
}

/** Two faults at once: a long search, with how far it is, that can be ended. */
function PairsSearch() {
  const { view } = useDesk();
  const client = useQueryClient();
  const [at, setAt] = useState(0); // what was known when it began
  const begun = at === view.seq; // what was seen since may tell otherwise
  const job = useQuery({
    queryKey: ["stop-pairs", view.id],
    enabled: begun,
    refetchInterval: (q) => (q.state.data?.done ? false : 400),
    staleTime: 0,
    queryFn: () => ok(api.GET("/api/drives/{id}/stop/pairs", { params: { path: { id: view.id } } })),
  });
  const j = begun ? job.data : undefined;
  return (
    <div className="text-[13px]">
      {(!j || j.done) && (
        <button
          className="act"
          onClick={() =>
            void ok(api.POST("/api/drives/{id}/stop/pairs", { params: { path: { id: view.id } } })).then(
              (x) => (
                client.setQueryData(["stop-pairs", view.id], x),
                setAt(view.seq),
                client.invalidateQueries({ queryKey: ["stop-pairs", view.id] })
              ),
            )
          }
        >
          Look for two faults at once
        </button>
      )}
      {j && !j.done && (
        <div className="flex items-center gap-2">
          <progress className="w-40" value={j.tried} max={j.all || 1} aria-label="Pairs tried" />
          <span className="n">
            {j.tried} of {j.all || "…"}
          </span>
          <button className="act" onClick={() => void ok(api.DELETE("/api/drives/{id}/stop/pairs", { params: { path: { id: view.id } } }))}>
            End it
          </button>
        </div>
      )}
      {j?.pairs && (
        <div className="mt-1">
          <p className="text-ink-2">
            {j.pairs.found.length === 0 ? "No two faults explain all of it" : `${j.pairs.found.length} pairs explain all of it`}; {j.tried}{" "}
            of {j.all} tried{j.pairs.ended && ", ended"}
            {j.pairs.left > 0 && `; ${j.pairs.left} of faults that show nothing alone, the least likely, were not`}.
          </p>
          {j.pairs.found.slice(0, 5).map((p, i) => (
            <p key={i} className="mt-1 border-l-[5px] border-warn-bar bg-white px-3 py-1.5">
              <span className="n float-right font-semibold">{Math.round(p.share * 100)} %</span>
              {p.texts[0]} <b>And:</b> {p.texts[1]}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}
