import { useState } from "react";
import { textAt, useDesk } from "../app/drive";
import { OnBench } from "../bench/OnBench";
import { useBench } from "../bench/useBench";
import { Shaft } from "../picture/Shaft";
import { TruthTable } from "../picture/TruthTable";
import { CheckList } from "../ui/CheckList";
import { Choice, Field, Tick } from "../ui/Field";
import { GateScreen } from "./GateScreen";
import { Group } from "./Intent";

const ends: [string, string][] = [
  ["drive-end", "the drive end"],
  ["fan-end", "the fan end"],
];

const three = (v: number) => Number(v.toPrecision(3)).toString();

/** Which way the shaft turns: what forward means, what must hold before, a short turn, and the mend. */
export function Turn() {
  const { view } = useDesk();
  const t = view.state.turn;
  const encoder = textAt(view, "site.encoder") === "wanted";
  const sense = textAt(view, "turn.sense");
  const from = textAt(view, "turn.from");
  const brake = textAt(view, "turn.brake");
  return (
    <GateScreen
      gate="turn"
      title="Turn"
      about="Say what forward is, look from where you said, turn it as short as it can be seen. Wrong: two motor leads change places, dead; supply leads change nothing."
      beside={<Beside encoder={encoder} sense={sense} from={from} />}
    >
      <Group title="What turns">
        <Field path="turn.forward" label="Forward, the machine" text className="col-span-2" placeholder="belt runs to the mill" />
        <Choice path="turn.from" label="Looked at from" options={ends} />
        <Choice
          path="turn.sense"
          label="Forward is then"
          options={[
            ["clockwise", "clockwise ↻"],
            ["counter-clockwise", "counter-clockwise ↺"],
          ]}
        />
        <Choice
          path="turn.stands"
          label="The first turn is made"
          options={[
            ["uncoupled", "uncoupled"],
            ["coupled", "coupled"],
            ["tester", "by a rotation tester"],
          ]}
        />
        <Choice
          path="turn.uncouple"
          label="The coupling comes apart"
          options={[
            ["yes", "yes"],
            ["no", "no"],
          ]}
        />
        <Choice
          path="turn.brake"
          label="Brake opened"
          options={[
            ["none", "none"],
            ["drive", "by the drive"],
            ["apart", "by its own supply"],
          ]}
        />
        {(brake === "drive" || brake === "apart") && (
          <>
            <Field path="turn.brake_opens" label="It opens in, s" placeholder="0.15" />
            <Field path="turn.brake_closes" label="and closes in, s" placeholder="0.1" />
            {brake === "drive" && (
              <>
                <Field path="intent.brake_opens_at" label="It opens from, % of motor" placeholder="as delivered" />
                <Field path="intent.brake_closes_below" label="and closes below, r/min" placeholder="as delivered" />
              </>
            )}
          </>
        )}
        <Field path="turn.per_turn" label="Travel a turn" placeholder="like 40 cm" />
        <Field path="turn.speed" label="Speed of the turn, r/min" placeholder={t.speed > 0 ? three(t.speed) : ""} />
        {encoder && <Field path="turn.lines" label="Encoder, lines" />}
        <Choice
          path="turn.phases"
          label="Phase order by setting"
          options={[
            ["as-wired", "as wired"],
            ["turned", "turned over"],
          ]}
        />
        {encoder && (
          <Choice
            path="turn.counting"
            label="Counting by setting"
            options={[
              ["as-wired", "as wired"],
              ["turned", "turned over"],
            ]}
          />
        )}
        <div className="col-span-2 flex flex-wrap items-end gap-x-5">
          <Tick path="turn.backstop" label="Must not turn backward" />
          <Tick path="turn.hanging" label="Hanging load" />
        </div>
      </Group>
      {textAt(view, "turn.stands") !== "tester" && <BenchTurn encoder={encoder} sense={sense} from={from} />}
      <CheckList gate="turn" />
    </GateScreen>
  );
}

function Beside({ encoder, sense, from }: { encoder: boolean; sense: string; from: string }) {
  const { view } = useDesk();
  const t = view.state.turn;
  return (
    <>
      <h2>Forward</h2>
      <div className="flex items-center gap-4">
        <Shaft sense={sense} from={from} size={112} />
        <p className="text-[13px] text-ink-2">
          {textAt(view, "turn.forward") || "What the machine does is not said yet"}.{" "}
          {sense && from && (
            <>
              Seen from {ends.find(([k]) => k === from)?.[1]}: <b className="text-ink">{sense}</b>.
            </>
          )}
        </p>
      </div>
      {t.hz > 0 && (
        <dl className="text-[13px]">
          {[
            ["Asked", `${three(t.hz)} Hz`],
            ["Shaft", `${three(t.speed)} r/min`],
            [`In ${t.seconds} s`, `${three(t.turns)} turns`],
            ...(t.travel_m ? [["Machine moves", `${three(t.travel_m)} m`]] : []),
          ].map(([k, v]) => (
            <div key={k} className="grid grid-cols-[1fr_auto] border-b border-dotted border-tin-3 py-1">
              <dt className="text-ink-2">{k}</dt>
              <dd className="n font-semibold">{v}</dd>
            </div>
          ))}
        </dl>
      )}
      {encoder && <TruthTable shaft={t.seen} count={t.count} />}
      {t.mend && <p className="border-l-[5px] border-stop bg-white px-3 py-2 text-[13px]">{t.mend}</p>}
    </>
  );
}

/** The same first turn on the bench: the shaft is seen going round, and a person says which way. */
function BenchTurn({ encoder, sense, from }: { encoder: boolean; sense: string; from: string }) {
  const { view, answer } = useDesk();
  const bench = useBench();
  const [bumped, setBumped] = useState(false);
  const t = view.state.turn;
  const b = bench.v?.bench;
  const see = (key: string, value: string) => void answer(key, value, { with: "bench" });
  const counts = view.state.gates.find((g) => g.key === "turn")?.checks.some((c) => c.key === "turn/seen/count" && c.do === "choose");
  return (
    <OnBench title="The first turn on the bench" bench={bench} coupled={textAt(view, "turn.stands") === "coupled"}>
      {(act) => (
        <div className="grid grid-cols-[150px_1fr] gap-5 max-sm:grid-cols-1">
          <figure>
            <Shaft sense={sense} from={from} turns={b!.turns} />
            <figcaption className="n text-center text-[12.5px] text-ink-2">
              {Math.abs(b!.speed).toFixed(0)} r/min{encoder && ` · count ${b!.count.toFixed(0)}`}
            </figcaption>
          </figure>
          <div className="flex flex-col gap-2 text-[13.5px]">
            <div className="flex flex-wrap items-center gap-2">
              <button
                className="btn"
                disabled={!b!.line || t.hz <= 0 || b!.phase === "tuning"}
                onClick={() => {
                  setBumped(true);
                  act({ do: "bump", value: t.hz });
                }}
              >
                Bump forward, <span className="n">{three(t.hz)} Hz</span>
              </button>
              <button className="act" onClick={() => act({ do: "break", what: "leads-swapped", on: !b!.broken.includes("leads-swapped") })}>
                {b!.broken.includes("leads-swapped") ? "Leads are swapped: put right" : "Break: swap two motor leads"}
              </button>
              <button className="act" onClick={() => act({ do: "hide", n: Math.floor(Math.random() * 1e6) })}>
                Break one in secret
              </button>
            </div>
            {!view.state.simulated && (
              <p className="text-ink-3">For practice: this place is real, and what is seen here is not recorded as its machine's.</p>
            )}
            {view.state.simulated && (
              <>
                <div className="flex flex-wrap items-center gap-2">
                  <span className="text-ink-2">Seen here, it turned</span>
                  {(["forward", "backward", "still"] as const).map((v) => (
                    <button key={v} className="ghost !px-3 !py-1" disabled={!bumped || !t.ready} onClick={() => see("turn/seen/shaft", v)}>
                      {v === "still" ? "not at all" : v}
                    </button>
                  ))}
                </div>
                {encoder && (
                  <div className="flex flex-wrap items-center gap-2">
                    <span className="text-ink-2">and counted</span>
                    {["up", "down", "nothing"].map((v) => (
                      <button key={v} className="ghost !px-3 !py-1" disabled={!bumped || !counts} onClick={() => see("turn/seen/count", v)}>
                        {v}
                      </button>
                    ))}
                  </div>
                )}
              </>
            )}
            {view.state.simulated && !t.ready && (
              <p className="text-ink-3">Answer what comes before the turn first: on the bench it is practised as at the machine.</p>
            )}
            {t.bench && (t.leads || t.pairs) && (
              <div className="flex flex-wrap gap-2">
                {t.leads && (
                  <button
                    className="ghost !px-3 !py-1"
                    onClick={() => {
                      act({ do: "swap", what: "leads" });
                      see("turn/mend/leads", "confirmed");
                    }}
                  >
                    Change two motor leads on the bench
                  </button>
                )}
                {t.pairs && (
                  <button
                    className="ghost !px-3 !py-1"
                    onClick={() => {
                      act({ do: "swap", what: "pairs" });
                      see("turn/mend/pairs", "confirmed");
                    }}
                  >
                    Change pairs A and B on the bench
                  </button>
                )}
              </div>
            )}
          </div>
        </div>
      )}
    </OnBench>
  );
}
