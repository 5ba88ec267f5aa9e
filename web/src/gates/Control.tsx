import { replaceEqualDeep, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { of } from "../app/asked";
import { api, ok, say, sendBytes, type Schemas } from "../app/client";
import { textAt, useDesk } from "../app/drive";
import { RunPaths } from "../picture/RunPaths";
import { Strip } from "../picture/Strip";
import { CheckList } from "../ui/CheckList";
import { Choice, Tick } from "../ui/Field";
import { GateScreen } from "./GateScreen";
import { Group } from "./Intent";
import { WireTable } from "./WireTable";

type Wiring = Schemas["WiringState"];

// The last list of each drive: what did not change in the next one stays the same object, and is not drawn anew.
const lists = new Map<string, Wiring>();

/** The connection list of the drive that is open. Each view has its list. */
function useWiring() {
  const { view } = useDesk();
  const wiring = useQuery({
    queryKey: ["wiring", view.id, view.seq],
    queryFn: async () => {
      const w = replaceEqualDeep(lists.get(view.id), await ok(api.GET("/api/drives/{id}/wiring", { params: { path: { id: view.id } } })));
      lists.set(view.id, w);
      return w;
    },
    placeholderData: of(view.id),
    structuralSharing: false, // done above, across drives and steps
  });
  return { w: wiring.data, error: wiring.error, old: wiring.isPlaceholderData };
}

/** What is connected, landed by both ends, measured from end to end. */
export function Control() {
  return (
    <GateScreen
      gate="control"
      title="Control"
      about="Choose what is connected; the list of wires follows, rails first. Land each by both ends, then measure it from end to end, before power."
      beside={<Follows />}
    >
      <Group title="What is connected">
        <Choice
          path="wiring.command"
          label="Run is given by"
          options={[
            ["two-wire", "one contact"],
            ["three-wire", "push buttons"],
            ["keypad", "the keypad"],
            ["network", "the network"],
          ]}
        />
        <Choice
          path="wiring.reference"
          label="Speed is asked by"
          options={[
            ["pot", "potentiometer"],
            ["voltage", "0 to 10 V"],
            ["current", "4 to 20 mA"],
            ["presets", "presets"],
            ["buttons", "faster, slower buttons"],
            ["none", "nothing wired"],
          ]}
        />
        <Choice
          path="wiring.safety"
          label="Torque off"
          options={[
            ["jumper", "factory links stay"],
            ["contacts", "two contacts"],
            ["relay", "safety relay"],
          ]}
        />
        <Choice
          path="wiring.logic"
          label="Inputs"
          options={[
            ["source", "take plus 24 V"],
            ["sink", "drawn to 0 V"],
          ]}
        />
        <Choice
          path="wiring.supply"
          label="24 V from"
          options={[
            ["drive", "the drive"],
            ["outside", "outside, shared 0 V"],
          ]}
        />
        <Choice
          path="wiring.code"
          label="Colours and sizes"
          options={[
            ["iec", "IEC 60204-1"],
            ["nfpa", "NFPA 79"],
          ]}
        />
        <Choice
          path="wiring.numbers"
          label="Wires are numbered"
          options={[
            ["by-function", "by function, ten each"],
            ["running", "one after the other"],
          ]}
        />
        <Choice
          path="wiring.sensor"
          label="Winding sensor"
          options={[
            ["none", "none"],
            ["thermistor", "thermistor"],
          ]}
        />
        <Choice
          path="site.encoder"
          label="Encoder"
          options={[
            ["none", "none"],
            ["wanted", "wanted"],
          ]}
        />
        <ModulesIn />
        <div className="col-span-full grid grid-cols-4 gap-x-2.5 max-sm:grid-cols-2">
          <Tick path="wiring.reverse" label="Reverse" />
          <Tick path="wiring.jog" label="Jog" />
          <Tick path="wiring.reset" label="Fault reset" />
          <Tick path="wiring.interlock" label="Process interlock" />
          <Tick path="wiring.second" label="Second enable" />
          <Tick path="wiring.hand" label="Hand and auto" />
          <Tick path="wiring.run_lamp" label="Running lamp" />
          <Tick path="wiring.fault_lamp" label="Fault lamp" />
          <Tick path="wiring.meter" label="Speed meter" />
        </div>
      </Group>
      <Listed />
      <CheckList gate="control" skip={listed} />
    </GateScreen>
  );
}

/** The modules that are meant to be in the drive; nothing where its family has none. */
function ModulesIn() {
  const { view } = useDesk();
  const fits = view.family.modules;
  if (!fits.length) return null;
  return (
    <Choice
      path="wiring.modules"
      label="Modules in it"
      className="col-span-2"
      options={fits.map((f): [string, string] => [f.codes, f.words])}
    />
  );
}

const listed = ["control/landed/", "control/wire/"];

/** The strip, who can break the run path, and the wires. It alone is drawn when the list arrives. */
function Listed() {
  const { view } = useDesk();
  const { w, error, old } = useWiring();
  return (
    <>
      {error && <p className="text-stop">✕ {say(error)}</p>}
      {w && w.wires.length > 0 && (
        <div data-list="wiring" aria-busy={old}>
          <section className="mb-3.5 border border-tin-3 bg-tin-0 px-3.5 pt-2 pb-3" aria-label="Terminal strip">
            <h3 className="mb-1 text-[14px]">Terminal strip</h3>
            <Strip w={w} />
          </section>
          <RunPaths paths={w.paths} logic={textAt(view, "wiring.logic")} />
          <WireTable wires={w.wires} />
          <Exchange />
        </div>
      )}
    </>
  );
}

/** What follows from the wires: what each terminal does, what was measured, what to measure next. */
function Follows() {
  const w = useDeferredValue(useWiring().w); // wires and strip are painted first, this column in a frame of its own
  if (!w) return null;
  return (
    <>
      {!w.found.agrees && w.found.mistakes.length > 0 && (
        <section aria-label="What the readings say" className="border-l-[5px] border-stop bg-white px-3 py-2">
          <h3 className="text-[14px]">The readings are explained by</h3>
          <ol className="mt-1 text-[13px]">
            {w.found.mistakes.slice(0, 5).map((m, i) => (
              <li key={i} className="mb-1 grid grid-cols-[44px_1fr]">
                <span className="n font-semibold">{Math.round(m.share * 100)} %</span> <span>{m.text}</span>
              </li>
            ))}
            {w.found.mistakes.length > 5 && <li className="text-ink-3">and {w.found.mistakes.length - 5} more</li>}
          </ol>
          {w.found.next && (
            <p className="mt-1 text-[13px]">
              <b className="text-must">●</b> Measure next: <b className="n">{w.found.next.a}</b> to <b className="n">{w.found.next.b}</b>
              {w.found.next.held && `, with ${w.found.next.held.split(".")[0]} held`}. Joined leaves {w.found.next.if_joined}, open leaves{" "}
              {w.found.next.if_open}.
            </p>
          )}
          {w.effects.length > 0 && (
            <>
              <h3 className="mt-2 text-[13px]">Under power, if the first is right</h3>
              <ul className="text-[13px] text-ink-2">
                {w.effects.slice(0, 6).map((t) => (
                  <li key={t}>{t}</li>
                ))}
              </ul>
            </>
          )}
        </section>
      )}
      {w.found.repeat.length > 0 && (
        <section aria-label="Readings that contradict" className="border-l-[5px] border-stop bg-white px-3 py-2 text-[13px]">
          <h3 className="text-[14px]">These readings cannot all be true: repeat the first</h3>
          {w.found.repeat.map((r, i) => (
            <p key={i} className="n">
              {r.a} to {r.b}: {r.joined ? "joined" : "open"}
            </p>
          ))}
        </section>
      )}
      {w.assigns.length > 0 && <h2>What each terminal does</h2>}
      <div>
        {w.assigns.map((a) => (
          <div key={a.terminal} className="border-b border-dotted border-tin-3 py-1">
            <div className="grid grid-cols-[1fr_auto] items-baseline gap-2">
              <span className="text-ink-2">
                <b className="n text-[13px] font-semibold text-ink">{a.terminal}</b> {a.text}
              </span>
              <span className="n text-[13px]">{a.setting}</span>
            </div>
            {a.takes && <div className="c text-[12.5px] text-warn">▲ takes away: {a.takes}</div>}
          </div>
        ))}
        {w.budgets.map((b) => (
          <div key={b.name} className="grid grid-cols-[1fr_auto] items-baseline gap-2 border-b border-dotted border-tin-3 py-1">
            <span className="text-ink-2">
              Terminal {b.name} gives {b.volts} V
            </span>
            <span className="n text-[13px] font-semibold">
              {b.draws_ma} of {b.most_ma} mA
            </span>
          </div>
        ))}
      </div>
      <Unseen />
    </>
  );
}

/** What measuring from end to end would not show. */
function Unseen() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const unseen = useQuery({
    queryKey: ["unseen", view.id, view.seq],
    enabled: open,
    queryFn: () => ok(api.GET("/api/drives/{id}/wiring/unseen", { params: { path: { id: view.id } } })),
  });
  return (
    <div className="text-[13px] text-ink-2">
      <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
        What would measuring from end to end not show?
      </button>
      {open && unseen.data && (
        <>
          <p>{unseen.data.harmless} mis-landings stay on the same potential: they change nothing.</p>
          {unseen.data.changing.length > 0 && (
            <p className="text-warn">▲ These would change something, and no reading of the round shows them:</p>
          )}
          {unseen.data.changing.slice(0, 10).map((t) => (
            <p key={t}>{t}</p>
          ))}
        </>
      )}
    </div>
  );
}

/** The list goes out as CSV or JSON, and comes back with what a drawing office changed. */
function Exchange() {
  const { view, refresh } = useDesk();
  const client = useQueryClient();
  const [said, setSaid] = useState("");
  const [bad, setBad] = useState("");
  async function take(file: File | undefined) {
    if (!file) return;
    setSaid("");
    setBad("");
    try {
      const r = await sendBytes<Schemas["WiringImport"]>(`/api/drives/${view.id}/wiring`, file, "text/plain");
      setSaid(
        `${r.same} as drawn, ${r.changed} changed, ${r.added} added${r.missing.length > 0 ? `; not in the list, and kept: ${r.missing.join(", ")}` : ""}.`,
      );
      void client.invalidateQueries({ queryKey: ["wiring"] });
      refresh();
    } catch (e) {
      setBad(say(e));
    }
  }
  return (
    <div className="noprint mb-3.5 flex flex-wrap items-center gap-4 text-[13px]">
      <a className="act" href={`/api/drives/${view.id}/wiring.csv`}>
        Connection list (CSV)
      </a>
      <a className="act" href={`/api/drives/${view.id}/wiring.pdf`}>
        Connection sheet (PDF)
      </a>
      <a className="act" href={`/api/drives/${view.id}/wiring.json`}>
        Circuit (JSON)
      </a>
      <label className="flex items-center gap-2">
        Take a list in
        <input type="file" accept=".csv,.json,.txt" onChange={(e) => (void take(e.target.files?.[0]), (e.target.value = ""))} />
      </label>
      {said && <span role="status">{said}</span>}
      {bad && <span className="text-stop">✕ {bad}</span>}
    </div>
  );
}
