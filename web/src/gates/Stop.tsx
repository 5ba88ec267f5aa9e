import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say } from "../app/client";
import { textAt, useActs, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useHere, usePlaceEdit } from "../app/place";
import { Ladder, liveOf } from "../picture/Ladder";
import { TimingChart } from "../picture/TimingChart";
import { CircuitForm } from "../stop/CircuitForm";
import { FindTheWire } from "../stop/FindTheWire";
import { TestTable } from "../stop/TestTable";
import { usePlay, useStop, type Event, type StopView } from "../stop/useStop";
import { CheckList } from "../ui/CheckList";
import { Choice, Field, Tick } from "../ui/Field";
import { GateScreen } from "./GateScreen";
import { Group } from "./Intent";

/**
 * Torque off, proved with the shaft still: the circuit as drawn, every test with what must happen, and where it can be when it does not.
 */
export function Stop() {
  const { view } = useDesk();
  const { v, error } = useStop();
  const [{ test, step }, look] = useState({ test: "", step: 0 });
  const setStep = (n: number) => look((at) => ({ ...at, step: n }));
  // What was answered makes way for the next by itself, unless a person has opened another meanwhile.
  const open = (key: string, from?: string) => look((at) => (from !== undefined && at.test !== from ? at : { test: key, step: 0 }));
  const alone = !!view.drive.stop?.alone;
  const none = !alone && textAt(view, "stop.none") === "true";
  const hanging = textAt(view, "turn.hanging") === "true";
  return (
    <GateScreen
      gate="stop"
      title="Stop"
      about="Nothing turns here. Each test says what must happen; you say what did. Design, level and acceptance of the circuit are for a qualified person."
      beside={v && <Beside v={v} show={(key, at) => look({ test: key, step: at })} />}
    >
      <Group title={alone ? "The circuit" : "The circuit, and how this drive stops"}>
        {!alone && <Tick path="stop.none" label="No stop circuit here: links stay as ordered" className="col-span-full" />}
        {none ? <Field path="stop.none_by" label="Who answers for it, and their paper" text className="col-span-2" /> : <Chosen />}
        {!alone && !none && (
          <>
            <Choice
              path="stop.still"
              label="Shaft kept still by"
              options={[
                ["no-run", "no run given"],
                ["reference-zero", "zero reference"],
                ["motor-off", "cable off"],
              ]}
            />
            <Choice
              path="stop.as"
              label="It stops, category 0 or 1"
              options={[
                ["coast", "coasting"],
                ["ramped", "on a ramp"],
              ]}
            />
            <Choice
              path="stop.latched"
              label="Drive asks for its own reset"
              options={[
                ["no", "no"],
                ["yes", "yes, latched"],
              ]}
            />
            <Field path="stop.speed" label="Worst speed, r/min" />
            <Field path="stop.allowed" label="Allowed to standstill" placeholder="3 s" />
            <Choice
              path="stop.guarding"
              label="Hands kept away by"
              options={[
                ["locking", "guards locked"],
                ["brake", "a brake"],
                ["ramped", "the ramp"],
                ["none", "nothing"],
              ]}
            />
            <Field path="stop.discrepancy" label="Drive's discrepancy time" placeholder="0.5 s" />
            {textAt(view, "stop.as") === "ramped" && <Field path="stop.fall" label="Longest fall measured" placeholder="s" />}
            {hanging && <Field path="stop.drop" label="Drop allowed, mm" />}
          </>
        )}
        {!alone && (
          <>
            <Field
              path="stop.inside"
              label="Safety functions inside the drive that are used"
              placeholder="none"
              text
              className="col-span-2"
            />
            {textAt(view, "stop.inside") && <Field path="stop.inside_checksum" label="Their checksum" text />}
            {textAt(view, "stop.inside") && <Field path="stop.inside_holder" label="Who holds their password" text />}
          </>
        )}
        {!none && <Circuit />}
      </Group>
      {error && <p className="text-stop">✕ {say(error)}</p>}
      {v?.problems.map((p) => (
        <p key={p} className="mb-2 text-stop">
          ✕ {p}
        </p>
      ))}
      {v && v.hash !== "" && v.problems.length === 0 && (
        <>
          <Picture v={v} test={test} step={step} />
          <CheckList
            gate="stop"
            skip={[
              "stop/circuit/",
              "stop/given/",
              "stop/test/",
              "stop/measured/",
              "stop/signed/",
              "stop/volts/",
              "stop/ohms/",
              "stop/mended/",
              "stop/findings/",
            ]}
          />
          <Smallest />
          <TestTable
            v={v}
            open={test}
            setOpen={open}
            step={step}
            setStep={setStep}
            ready={view.state.stop.ready}
            lift={view.state.stop.lift}
          />
        </>
      )}
      <CheckList gate="stop" skip={["stop/test/", ...(v && v.hash !== "" ? ["stop/before/", "stop/set/"] : [])]} />
      {v && v.hash !== "" && (
        <p className="noprint mb-3.5 text-[13px]">
          <a className="act" href={`/api/drives/${view.id}/stop.pdf`}>
            Record to be signed (PDF)
          </a>
        </p>
      )}
    </GateScreen>
  );
}

/** Which of the place's circuits takes this drive's torque off. */
function Chosen() {
  const { place } = useHere();
  const { view, saver, setNotice, refresh } = useDesk();
  const change = usePlaceEdit();
  const circuits = Object.entries(place.place.circuits ?? {});
  const chosen = textAt(view, "stop.circuit");
  async function begin() {
    try {
      const id = newId();
      const put = (path: string, text: string) => ({ path: `circuits.${id}.${path}`, text });
      await change([
        put("name", `Stop circuit ${circuits.length + 1}`),
        put("kind", "two-channel"),
        put("feed", "pulsed"),
        put("reset", "let-go"),
        put("lamps", "two"),
        put("devices.S1.kind", "emergency-stop"),
      ]);
      await saver.all([{ path: "stop.circuit", text: id }], "a new stop circuit");
      refresh();
    } catch (e) {
      setNotice(say(e));
    }
  }
  return (
    <div>
      <Choice path="stop.circuit" label="Stop circuit" options={circuits.map(([id, c]) => [id, c.name])} />
      {!chosen && (
        <button className="act" onClick={() => void begin()}>
          A new circuit
        </button>
      )}
    </div>
  );
}

function Circuit() {
  const { place } = useHere();
  const { view } = useDesk();
  const id = textAt(view, "stop.circuit");
  const c = place.place.circuits?.[id];
  const [open, setOpen] = useState(false);
  if (!c) return null;
  const asked = !c.by || Object.keys(c.devices ?? {}).length < 1;
  return (
    <div className="col-span-full">
      <button className="act" aria-expanded={open || asked} onClick={() => setOpen(!open)}>
        {open ? "Close" : "What it is built of, and what the responsible person gave…"}
      </button>
      {(open || asked) && <CircuitForm id={id} own={!!c.own} />}
    </div>
  );
}

/** The circuit as it stands at the step that is looked at, or as it is tried out here. Nothing real is commanded. */
function Picture({ v, test, step }: { v: StopView; test: string; step: number }) {
  const [acts, setActs] = useState<{ text: string; events: Event[] }[]>([]);
  const [timing, setTiming] = useState(false);
  const [pulses, setPulses] = useState(false);
  const t = v.tests.find((x) => x.key === test);
  const resets = v.parts.filter((p) => p.does === "button");
  const start: Event[] = resets.flatMap((p, i) => [
    { at_ms: 1000 + i * 1000, do: "work" as const, what: p.id },
    { at_ms: 1500 + i * 1000, do: "release" as const, what: p.id },
  ]);
  const begun = 2000 + resets.length * 1000;
  const tried = [...start, ...acts.flatMap((a, i) => a.events.map((e) => ({ ...e, at_ms: begun + i * 2000 + e.at_ms })))];
  const events = t ? t.events : tried;
  const until = t ? t.steps[Math.min(step, t.steps.length - 1)]!.look_ms : begun + acts.length * 2000;
  const play = usePlay(
    v.hash,
    events.filter((e) => e.at_ms <= until),
    until,
  );
  const worked = (id: string) =>
    acts
      .flatMap((a) => a.events)
      .filter((e) => e.what === id && (e.do === "work" || e.do === "release"))
      .at(-1)?.do === "work";
  const work = (id: string) => {
    const p = v.parts.find((x) => x.id === id);
    if (t || !p) return;
    const on = worked(id);
    if (p.does === "button")
      setActs([
        ...acts,
        {
          text: `${id} pressed`,
          events: [
            { at_ms: 0, do: "work", what: id },
            { at_ms: 500, do: "release", what: id },
          ],
        },
      ]);
    else setActs([...acts, { text: `${id} ${on ? "put back" : "worked"}`, events: [{ at_ms: 0, do: on ? "release" : "work", what: id }] }]);
  };
  const drives = v.parts.filter((p) => p.does === "drive");
  const run = (on: boolean) =>
    setActs([...acts, { text: on ? "run" : "run off", events: drives.map((p) => ({ at_ms: 0, do: on ? "run" : "run-off", what: p.id })) }]);
  return (
    <section className="mb-3.5 border border-tin-3 bg-tin-0" aria-label="Circuit">
      <h3 className="flex flex-wrap items-baseline justify-between gap-x-3 border-b border-tin-2 px-3.5 py-1.5 text-[14px]">
        <span>
          {v.name || "Circuit"}{" "}
          <span className="c text-[12.5px] font-normal text-ink-3">
            {t ? `as it must be at step ${step + 1} of "${t.title}"` : "as drawn; try it: nothing real is commanded"}
          </span>
        </span>
        <span className="flex gap-4">
          <button className="act" aria-expanded={pulses} onClick={() => setPulses(!pulses)}>
            {pulses ? "Without test pulses" : "Test pulses"}
          </button>
          <button className="act" aria-expanded={timing} onClick={() => setTiming(!timing)}>
            {timing ? "Without timing" : "Over time"}
          </button>
        </span>
      </h3>
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Picture of the circuit">
        <Ladder rungs={v.rungs} live={play && liveOf(play, v.circuit.wires)} words={v.words} work={t ? undefined : work} own={v.own} />
      </div>
      {!t && (
        <div
          className="flex flex-wrap items-center gap-1.5 border-t border-tin-2 px-3.5 py-1.5 text-[13px]"
          role="group"
          aria-label="Try it"
        >
          {v.parts
            .filter((p) => p.does === "hand" || p.does === "button")
            .slice(0, 60)
            .map((p) => (
              <button
                key={p.id}
                className={`min-h-6 border px-2 py-0.5 ${worked(p.id) ? "border-plum bg-plum text-white" : "border-tin-3 bg-white hover:bg-plum-0"}`}
                aria-pressed={p.does === "hand" ? worked(p.id) : undefined}
                title={p.name}
                onClick={() => work(p.id)}
              >
                {p.id}
              </button>
            ))}
          {drives.length > 0 &&
            [true, false].map((on) => (
              <button key={String(on)} className="min-h-6 border border-tin-3 bg-white px-2 py-0.5 hover:bg-plum-0" onClick={() => run(on)}>
                {on ? "run" : "run off"}
              </button>
            ))}
          {acts.length > 0 && (
            <button className="act ml-2" onClick={() => setActs([])}>
              Start over
            </button>
          )}
          <span className="c ml-auto text-[12px] text-ink-3">{acts.map((a) => a.text).join(" · ")}</span>
        </div>
      )}
      {timing && play && (
        <div className="border-t border-tin-2 bg-white px-3.5 py-2">
          <TimingChart timing={play} words={v.words} own={v.own} />
        </div>
      )}
      {pulses && <Pulses v={v} />}
      <p className="border-t border-tin-2 px-3.5 py-1 text-[12px] text-ink-3">
        Thick: it has a voltage. Lifted arm: open. Bar over a contact: worked by hand. <span className="text-good">● ready</span> ·{" "}
        <span className="text-stop">■ tripped</span> · <span className="text-must">◆ reset wanted</span> (IEC 60073)
      </p>
    </section>
  );
}

/** What sends test pulses and what they do, a few periods of them with everything closed and running. */
function Pulses({ v }: { v: StopView }) {
  const { view } = useDesk();
  const sent = useQuery({
    queryKey: ["stop-pulses", view.id, v.hash],
    queryFn: () => ok(api.GET("/api/drives/{id}/stop/pulses", { params: { path: { id: view.id } } })),
  });
  const s = sent.data;
  if (!s) return null;
  return (
    <div className="border-t border-tin-2 bg-white px-3.5 py-2 text-[12.5px]" role="group" aria-label="Test pulses">
      {s.sends.length === 0 ? (
        <p className="text-ink-2">Nothing in it sends test pulses: a short between channels, or to plus, is not seen by them.</p>
      ) : (
        <TimingChart timing={s} words={v.words} own={v.own} every={50} all />
      )}
      {s.problems.map((p) => (
        <p key={p} className="text-stop">
          ✕ {p}
        </p>
      ))}
      {s.sends.length > 0 && (
        <p className="text-ink-3">
          {s.problems.length === 0 ? "Every filter passes them over. " : ""}Everything closed, reset and running; widths as set,{" "}
          {s.sends[0]!.split(": ").at(-1)} at the first.
        </p>
      )}
    </div>
  );
}

/** The smallest set, worked out when it is asked for. */
function Smallest() {
  const { view } = useDesk();
  const { answer } = useActs();
  const g = view.state.gates.find((x) => x.key === "stop");
  const c = g?.checks.find((x) => x.key === "stop/set/chosen");
  const chosen = c?.value === "smallest";
  const set = useQuery({
    queryKey: ["stop-smallest", view.id, view.state.stop.circuit],
    enabled: chosen,
    queryFn: () => ok(api.GET("/api/drives/{id}/stop/smallest", { params: { path: { id: view.id } } })),
  });
  const [open, setOpen] = useState(false);
  if (!chosen) return null;
  const s = set.data;
  return (
    <div className="-mt-2 mb-3.5 text-[12.5px] text-ink-2">
      {s && !s.exact
        ? "The circuit is large: the set follows from its form, and not every fault was played."
        : `The smallest set tells apart every single fault that the whole table tells apart${s ? `: ${s.faults} in ${s.classes} classes` : ""}.`}{" "}
      What it leaves out shows nothing new of one fault; of two at once it may.{" "}
      <button className="act" onClick={() => void answer("stop/set/chosen", "all")}>
        Do all of them
      </button>{" "}
      {s && s.hidden.length > 0 && (
        <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
          {s.hidden.length} faults that no test shows
        </button>
      )}
      {open && s && (
        <ul className="mt-1 max-h-40 list-disc overflow-y-auto border border-tin-3 bg-white py-1 pr-2 pl-6" tabIndex={0}>
          {s.hidden.map((t) => (
            <li key={t}>{t}</li>
          ))}
        </ul>
      )}
    </div>
  );
}

function Beside({ v, show }: { v: StopView; show: (key: string, step: number) => void }) {
  const s = useDesk().view.state.stop;
  return (
    <>
      <FindTheWire v={v} show={show} />
      {v.hash !== "" && (
        <p className="text-[13px] text-ink-2">
          {s.done} of {s.tests} tests hold{s.fails > 0 && <b className="text-stop">, {s.fails} fail</b>}. A second window on this drive
          works the same table.
        </p>
      )}
      {v.resets.length > 0 && <h2>The way back</h2>}
      <ol className="text-[13px]">
        {v.resets.map((r, i) => (
          <li key={i} className="border-b border-dotted border-tin-3 py-1">
            {(i === 0 || v.resets[i - 1]!.after !== r.after) && (
              <b className="mb-0.5 block text-[12.5px]">After {r.after === "torque off" ? "an ordinary torque off" : `a ${r.after}`}</b>
            )}
            <span className="text-ink-2">{r.do}</span> {r.shows && <span className="n text-[12.5px] whitespace-nowrap">→ {r.shows}</span>}
          </li>
        ))}
      </ol>
    </>
  );
}
