import { useState } from "react";
import { useActs } from "../app/drive";
import { useHere, useWhen } from "../app/place";
import { inWords, type StopTest, type StopView } from "./useStop";

const signs: Record<string, string> = {
  holds: "✓ holds",
  "look-again": "▲ again",
  stops: "✕ fails",
  "not-done": "",
  waived: "⊘ waived",
  "": "",
};
const colours: Record<string, string> = { holds: "text-good", stops: "text-stop", "look-again": "text-warn" };
const shapes: Record<string, { sign: string; colour: string }> = {
  green: { sign: "●", colour: "text-good" },
  red: { sign: "■", colour: "text-stop" },
  blue: { sign: "◆", colour: "text-must" },
  yellow: { sign: "▲", colour: "text-warn" },
  white: { sign: "○", colour: "text-ink" },
};

/**
 * Every test with what is to be done, what must happen and what did. The one that is open shows its steps; the circuit above stands as at
 * the step that is looked at.
 */
export function TestTable({
  v,
  open,
  setOpen,
  step,
  setStep,
  ready,
  lift,
}: {
  v: StopView;
  open: string;
  setOpen: (key: string, from?: string) => void;
  step: number;
  setStep: (n: number) => void;
  ready: boolean;
  lift: string;
}) {
  const [all, setAll] = useState(false);
  const left = v.tests.filter((t) => !t.chosen).length;
  const list = v.tests.filter((t) => all || t.chosen);
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Tests">
      <h3 className="border-b border-tin-2 px-3.5 py-1.5 text-[14px]">
        Tests{" "}
        <span className="c text-[12.5px] font-normal text-ink-3">
          shaft still. {list.filter((t) => t.verdict === "holds").length} of {list.length} hold.
        </span>
      </h3>
      <ol>
        {list.map((t, i) => (
          <Row
            key={t.key}
            n={i + 1}
            t={t}
            v={v}
            open={open === t.key}
            toggle={() => setOpen(open === t.key ? "" : t.key)}
            step={step}
            setStep={setStep}
            ready={ready}
            lift={lift}
            next={() => setOpen(list.slice(i + 1).find((x) => x.verdict !== "holds")?.key ?? "", t.key)}
          />
        ))}
      </ol>
      {left > 0 && (
        <p className="px-3.5 py-1.5 text-[13px]">
          <button className="act" onClick={() => setAll(!all)}>
            {all ? "Hide" : "Show"} {left} more that this set leaves out
          </button>
        </p>
      )}
    </section>
  );
}

function Row({
  n,
  t,
  v,
  open,
  toggle,
  step,
  setStep,
  ready,
  lift,
  next,
}: {
  n: number;
  t: StopTest;
  v: StopView;
  open: boolean;
  toggle: () => void;
  step: number;
  setStep: (n: number) => void;
  ready: boolean;
  lift: string;
  next: () => void;
}) {
  const { place } = useHere();
  const when = useWhen();
  const who = t.by ? (place.place.people?.[t.by]?.initials ?? "") : "";
  return (
    <li
      data-test={t.key}
      data-verdict={t.verdict || "not-done"}
      className={`border-b border-tin-2 last:border-b-0 ${open ? "bg-plum-0" : ""}`}
    >
      <button
        className="grid w-full grid-cols-[28px_minmax(0,1fr)_auto_84px] items-baseline gap-2 px-3.5 py-1.5 text-left"
        aria-expanded={open}
        onClick={toggle}
      >
        <span className="n text-ink-3">{n}</span>
        <span className="text-[13.5px] font-semibold">
          {t.title}
          {t.dead && <span className="c ml-2 text-[12px] font-normal text-ink-3">a wire is lifted, dead</span>}
        </span>
        <span className="n text-[12.5px] text-ink-2">
          {t.value && (t.value.startsWith("step") ? "otherwise" : t.value)} {who} {t.at && when(t.at)}
        </span>
        <span className={`text-[13px] font-bold ${colours[t.verdict] ?? "text-ink-3"}`}>{signs[t.verdict] || "open"}</span>
      </button>
      {!open && t.verdict === "stops" && <p className="px-3.5 pb-1.5 pl-[52px] text-[12.5px] text-stop">{t.detail}</p>}
      {open && (
        <Steps
          key={t.verdict === "look-again" ? "anew" : "round"}
          t={t}
          v={v}
          step={step}
          setStep={setStep}
          ready={ready && !(t.dead && lift)}
          wait={!ready ? "Answer first what comes before the tests." : t.dead ? lift : ""}
          next={next}
        />
      )}
    </li>
  );
}

/** The steps of a test. What differs is put right step by step where it stands; the rest is as it must be. */
function Steps({
  t,
  v,
  step,
  setStep,
  ready,
  wait,
  next,
}: {
  t: StopTest;
  v: StopView;
  step: number;
  setStep: (n: number) => void;
  ready: boolean;
  wait: string;
  next: () => void;
}) {
  const { answer } = useActs();
  const [other, setOther] = useState<Record<number, Record<string, string>>>(() => {
    const out: Record<number, Record<string, string>> = {};
    if (t.verdict === "look-again") return out; // of an earlier round: nothing of it is marked now
    t.shown.forEach((s, k) => {
      for (const [part, shows] of Object.entries(s)) if (t.steps[k]!.must[part] !== shows) out[k] = { ...out[k], [part]: shows };
    });
    return out;
  });
  const differing = Object.entries(other).filter(([, l]) => Object.keys(l).length > 0);
  const value = differing
    .map(
      ([k, l]) =>
        `step ${Number(k) + 1}: ${Object.entries(l)
          .map(([part, shows]) => `${part} ${shows}`)
          .join(", ")}`,
    )
    .join("; ");
  const send = (text: string) => answer(`stop/test/${t.key}`, text, { seen: { circuit: v.hash } });
  return (
    <div className="px-3.5 pb-2.5 pl-[52px]">
      <p className="text-[12.5px] text-ink-2">
        <b>If it were otherwise:</b> {t.hazard} <span className="text-ink-3">{t.who}</span>
      </p>
      <ol className="mt-1.5 border border-tin-3 bg-white">
        {t.steps.map((s, k) => (
          <li key={k} className={`border-b border-tin-2 px-2.5 py-1 last:border-b-0 ${step === k ? "bg-plum-0" : ""}`} data-step={k}>
            <div className="grid grid-cols-[20px_minmax(0,9fr)_minmax(0,16fr)] items-start gap-2">
              <button
                className="n min-h-6 text-left font-semibold text-plum"
                aria-label={`Show the circuit at step ${k + 1}`}
                aria-pressed={step === k}
                onClick={() => setStep(k)}
              >
                {k + 1}
              </button>
              <span className="text-[13px] leading-snug">{s.do}</span>
              <span className="flex flex-wrap gap-x-2.5 gap-y-0.5 text-[12.5px]">
                {Object.entries(s.must)
                  .sort(([a], [b]) => order(v, a) - order(v, b))
                  .map(([part, must]) => (
                    <Shown
                      key={part}
                      v={v}
                      part={part}
                      must={must}
                      shows={other[k]?.[part]}
                      set={(x) => setOther({ ...other, [k]: x === must ? without(other[k] ?? {}, part) : { ...other[k], [part]: x } })}
                    />
                  ))}
              </span>
            </div>
          </li>
        ))}
      </ol>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        {t.verdict === "stops" && differing.length > 0 && (
          <button className="ghost !py-1.5" onClick={() => setOther({})}>
            Test it anew, nothing marked
          </button>
        )}
        {differing.length > 0 && (
          <button className="btn !bg-stop !py-1.5" data-answer disabled={!ready} onClick={() => void send(value)}>
            Record what was otherwise
          </button>
        )}
        <button
          className={`${differing.length > 0 ? "ghost" : "btn"} !py-1.5 disabled:opacity-50`}
          data-answer
          disabled={!ready || differing.length > 0}
          onClick={() => void send("as it must").then((done) => done && next())}
        >
          Everything as it must
        </button>
        <span className="text-[12.5px] text-ink-3">
          {ready
            ? differing.length > 0
              ? "Something is marked otherwise: record that, or put it back."
              : "Press on what was otherwise, at the step where it was. What comes after the last of them counts as not looked at."
            : wait}
        </span>
      </div>
    </div>
  );
}

const order = (v: StopView, part: string) => v.parts.findIndex((p) => p.id === part);

function without(l: Record<string, string>, part: string) {
  const out = { ...l };
  delete out[part];
  return out;
}

/** What a part must show, and what it did: pressing goes through what it can show. */
function Shown({ v, part, must, shows, set }: { v: StopView; part: string; must: string; shows?: string; set: (x: string) => void }) {
  const p = v.parts.find((x) => x.id === part);
  const shape = p?.does === "lamp" ? shapes[p.colour ?? ""] : undefined;
  const all = p?.shows ?? [];
  const now = shows ?? must;
  const pressed = () => set(all[(all.indexOf(now) + 1) % all.length] ?? must);
  const text = inWords(v, part, now);
  return (
    <span className={`inline-flex items-baseline gap-1 ${shows ? "font-bold text-stop" : "text-ink-2"}`}>
      {shape && (
        <span className={now === "on" ? shape.colour : "text-tin-3"} aria-hidden="true">
          {shape.sign}
        </span>
      )}
      <span className="font-semibold text-ink">{p?.does === "lamp" ? p.name : part}</span>
      {all.length > 2 ? (
        <select
          className="min-h-6 max-w-44 border border-tin-3 bg-white px-1 text-[12.5px]"
          aria-label={`${part} showed`}
          value={now}
          onChange={(e) => set(e.target.value)}
        >
          {all.map((x) => (
            <option key={x} value={x}>
              {v.words[x] && part === v.own ? `${v.words[x]} (${x.replaceAll("-", " ")})` : x.replaceAll("-", " ")}
            </option>
          ))}
        </select>
      ) : (
        <button
          className="min-h-6 underline decoration-dotted underline-offset-2"
          aria-label={`${part} showed ${text}; change`}
          onClick={pressed}
        >
          {text}
        </button>
      )}
    </span>
  );
}
