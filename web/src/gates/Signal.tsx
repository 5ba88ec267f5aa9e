import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { of } from "../app/asked";
import { api, ok } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { Prove } from "../bench/Prove";
import { ScalingPicture, ScalingTable } from "../picture/Scaling";
import { CheckList } from "../ui/CheckList";
import { Choice, Field, useText } from "../ui/Field";
import { Group, IntentGate } from "./Intent";
import { TruthOfInputs, WhatIf, WhyNot } from "./WhyNot";

/** Who says run, who says how fast. */
export function Signal() {
  const from = useText("intent.speed_source");
  const command = useText("intent.command_source");
  const interlock = useText("wiring.interlock");
  const network = from === "network" || command === "network";
  const analog = from === "voltage" || from === "current";
  return (
    <IntentGate
      gate="signal"
      title="Signal"
      about="Two choices that are often forgotten one by one: where the run command comes from, and where the speed comes from."
    >
      <Group title="Sources">
        <Choice
          path="intent.command_source"
          label="Run command from"
          options={[
            ["keypad", "keypad"],
            ["terminals", "terminals"],
            ["network", "network"],
          ]}
        />
        <Choice
          path="intent.speed_source"
          label="Speed from"
          options={[
            ["keypad", "keypad"],
            ["voltage", "0–10 V"],
            ["current", "4–20 mA"],
            ["presets", "presets"],
            ["motor-potentiometer", "faster/slower"],
            ["network", "network"],
          ]}
        />
        <Choice
          path="intent.reference_loss"
          label="When the signal is lost"
          options={[
            ["stop", "stop"],
            ["hold", "hold the speed"],
            ["fault", "fault"],
            ["lowest", "lowest speed"],
            ["preset", "preset 1"],
          ]}
        />
        <Choice
          path="intent.power_up"
          label="Run held when power comes"
          options={[
            ["off", "waits"],
            ["on", "starts"],
          ]}
        />
        <Choice
          path="intent.stop_key"
          label="Stop key in remote"
          options={[
            ["obeyed", "stops it"],
            ["ignored", "ignored"],
            ["quick-stop", "quick stop"],
          ]}
        />
        {interlock === "true" && (
          <>
            <Choice
              path="intent.interlock"
              label="Interlock opens"
              options={[
                ["coast", "coasts"],
                ["ramp", "ramps down"],
              ]}
            />
            <Choice
              path="intent.interlock_back"
              label="Interlock closes again"
              options={[
                ["fresh", "fresh run command"],
                ["goes-on", "goes on by itself"],
              ]}
            />
          </>
        )}
      </Group>
      <Group title={analog ? `What the ${from === "voltage" ? "0–10 V" : "4–20 mA"} signal asks for` : "What an analog signal asks for"}>
        <Field path="intent.reference_low" label="At the low end, r/min" />
        <Field path="intent.reference_high" label="At the high end, r/min" />
        <Field path="intent.filter" label="Filter, s" placeholder="as delivered" />
        {from === "current" && <Field path="intent.lost_below" label="Lost below, mA" placeholder="3.6" />}
      </Group>
      {analog && <Curve />}
      {(analog || network) && <Scaled />}
      {analog && <Measured unit={from === "voltage" ? "V" : "mA"} />}
      <Group title="Presets, r/min at the shaft">
        <Field path="intent.preset_1" label="Preset 1" />
        <Field path="intent.preset_2" label="Preset 2" />
        <Field path="intent.preset_3" label="Preset 3" />
        <Field path="intent.preset_4" label="Preset 4" />
        <Field path="intent.preset_5" label="Preset 5" />
        <Field path="intent.hand_speed" label="Hand speed, kept" />
        <CountedIn />
      </Group>
      {from === "motor-potentiometer" && (
        <Group title="Faster and slower">
          <Field path="intent.pot_time" label="Faster held, s to highest" />
          <Choice
            path="intent.pot_keeps"
            label="Its speed is kept"
            options={[
              ["stop", "to the stop"],
              ["power", "to power-off"],
              ["always", "for good"],
            ]}
          />
        </Group>
      )}
      <Network commands={network} />
      <Group title="Process loop in the drive">
        <Choice
          path="intent.loop"
          label="Its own controller"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Field path="intent.loop_setpoint" label="Setpoint, %" />
        <Field path="intent.loop_gain" label="Gain" placeholder="as delivered" />
        <Field path="intent.loop_time" label="Time, s" placeholder="as delivered" />
        <Field path="intent.sleep" label="Sleeps below, r/min" placeholder="never" />
        <Field path="intent.loop_at_top" label="Value at highest speed, %" placeholder="100 %" />
        <Choice
          path="intent.loop_grows"
          label="It grows with"
          options={[
            ["speed", "the speed"],
            ["square", "its square"],
          ]}
        />
        <Field path="intent.loop_lag" label="It follows after, s" placeholder="2 s" />
      </Group>
      <CheckList gate="signal" skip={["signal/complete/", "signal/findings/", "signal/read"]} />
      <Prove />
      <WhatIf />
      <TruthOfInputs />
      <WhyNot />
      <p className="text-[13px] text-ink-2">
        A drive left in hand ignores the plant. A source changed while run is held may start the motor: change it with both torque-off
        channels open and the area clear.
      </p>
    </IntentGate>
  );
}

/** Points measured at the drive's terminal: the line through them is held against what is wanted. */
function Measured({ unit }: { unit: string }) {
  const { view } = useDesk();
  const [more, setMore] = useState<string[]>([]);
  const kept = Object.keys(view.drive.signal?.points ?? {});
  const ids = [...kept, ...more.filter((id) => !kept.includes(id))].sort();
  return (
    <Group title="Measured: signal at the terminal, speed that it gave">
      {ids.map((id, i) => (
        <div key={id} className="col-span-2 grid grid-cols-3 gap-2.5" data-point={i + 1}>
          <Field path={`signal.points.${id}.in`} label={`Point ${i + 1}, ${unit}`} />
          <Field path={`signal.points.${id}.out`} label="gave, r/min" />
          <Field path={`signal.points.${id}.spread`} label="up and down by" placeholder="0" />
        </div>
      ))}
      <div className="col-span-full text-[13px]">
        <button className="act" onClick={() => setMore([...more, newId()])}>
          Add a point
        </button>{" "}
        <span className="text-ink-3">
          {ids.length < 2
            ? "Two or more, near both ends: the line through them is held against what is wanted, and the setting named that mends it."
            : "Cleared fields take a point out."}
        </span>
      </div>
    </Group>
  );
}

/** The reference from the controller's counts to the machine: drawn, as test points, in both ways of counting a line. */
function Scaled() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const q = useQuery({
    queryKey: ["scaling", view.id, view.seq],
    placeholderData: of(view.id),
    queryFn: () => ok(api.GET("/api/drives/{id}/signal/scaling", { params: { path: { id: view.id } } })),
  });
  const s = q.data;
  const old = q.isPlaceholderData;
  return (
    <section className="mb-3.5" aria-label="Scaling" aria-busy={old}>
      <h3 className="mb-1 text-[14px]">From the controller to the machine</h3>
      {s && s.missing !== "" && <p className="border border-tin-3 bg-white p-3 text-[13px] text-ink-3">Drawn with {s.missing}.</p>}
      {s &&
        s.missing !== "" &&
        s.lost.map((t) => (
          <p key={t} className="mt-1 text-[13px] text-ink-2">
            {t}
          </p>
        ))}
      {s && s.missing === "" && (
        <>
          <ScalingPicture s={s} />
          <ScalingTable s={s} />
          <div className="border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-1.5 text-[13px]">
            {!old && s.fit && <p role="status">{s.fit}.</p>}
            {s.jitter && <p>{s.jitter}</p>}
            {s.per_count_rpm != null && (
              <p className="text-ink-2">
                One count of the controller is <b className="n">{s.per_count_rpm.toPrecision(2)} r/min</b>.
              </p>
            )}
            {s.lost.map((t) => (
              <p key={t} className="text-ink-2">
                {t}
              </p>
            ))}
          </div>
          {s.forms.length > 0 && (
            <table
              className="list w-full border border-t-0 border-tin-3 bg-white text-[13px]"
              aria-label="The same line, counted otherwise"
            >
              <thead>
                <tr>
                  <th>The same line</th>
                  <th className="text-right">Offset, %</th>
                  <th className="text-right">Gain</th>
                  <th>Inverted</th>
                </tr>
              </thead>
              <tbody>
                <tr>
                  <td>{s.two_point}</td>
                  <td />
                  <td />
                  <td />
                </tr>
                {s.forms.map((f) => (
                  <tr key={f.order}>
                    <td>
                      {f.order} {f.own && <b className="ml-1 text-plum">this family</b>}
                    </td>
                    <td className="n text-right">{f.offset_pct.toFixed(2)}</td>
                    <td className="n text-right">{f.gain.toFixed(4)}</td>
                    <td>{f.invert ? "yes: 100 − it" : "no"}</td>
                  </tr>
                ))}
              </tbody>
              <caption className="caption-bottom px-3.5 py-1 text-left text-[12px] text-ink-3">
                Of the signal's span, in percent of the highest speed. The sheet has it as this drive counts, slip and rounding included.
              </caption>
            </table>
          )}
        </>
      )}
      <button className="act mt-1" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "The controller's side: counts, unit, dead band…"}
      </button>
      {open && (
        <div className="mt-1.5 grid grid-cols-4 gap-2.5 border border-tin-3 bg-tin-0 p-3.5 max-sm:grid-cols-2">
          <Field path="signal.unit" label="Controller asks in" placeholder="%, m³/h" text />
          <Field path="signal.asks_low" label="At the low end" />
          <Field path="signal.asks_high" label="At the high end" />
          <Field path="signal.dead_band" label="Dead band, V or mA" placeholder="none" />
          <Field path="signal.counts_low" label="Counts at the low end" placeholder="0" />
          <Field path="signal.counts_high" label="Counts at the high end" placeholder="27648" />
        </div>
      )}
    </section>
  );
}

const units: Record<string, string> = { hz: "Hz", percent: "percent", rpm: "r/min" };

/** In what the drive's own speeds are counted, where its family has a choice. */
function CountedIn() {
  const ways = useDesk().view.family.speed_units;
  if (!ways.length) return null;
  return (
    <Choice
      path="intent.speed_unit"
      label="At the drive in"
      options={ways.map((w, i): [string, string] => [w, (units[w] ?? w) + (i === 0 ? ", delivered" : "")])}
    />
  );
}

/** How the drive is known on its network, and what it does without it. */
function Network({ commands }: { commands: boolean }) {
  const { view } = useDesk();
  return (
    <Group title={commands ? "The network that commands it" : "Name and network"}>
      <Field path="intent.drive_name" label="Name on its display" placeholder={view.drive.tag || "its tag"} text />
      <Field path="intent.network_address" label="Address" placeholder="as delivered" />
      <Choice
        path="intent.network_speed"
        label="Speed, bits a second"
        options={["9600", "19200", "38400", "57600", "115200", "125000", "250000", "500000", "1000000"].map((v) => [v, v])}
      />
      <Choice
        path="intent.network_parity"
        label="Parity"
        options={[
          ["none", "none"],
          ["even", "even"],
          ["odd", "odd"],
        ]}
      />
      <Field path="intent.network_wait" label="Lost after, s" placeholder="as delivered" />
      <Choice
        path="intent.network_lost"
        label="When it is lost"
        options={[
          ["stop", "stop"],
          ["hold", "hold the speed"],
          ["fault", "fault"],
          ["goes-on", "goes on"],
        ]}
      />
    </Group>
  );
}

/** Points between the ends of a signal; most signals have none. */
function Curve() {
  const { view } = useDesk();
  const in_ = view.drive.intent ?? {};
  const [open, setOpen] = useState(!!(in_.curve_1_at || in_.curve_2_at || in_.curve_3_at));
  if (!open)
    return (
      <button className="act mb-3" onClick={() => setOpen(true)}>
        Points between the ends…
      </button>
    );
  return (
    <Group title="Points between the ends, rising">
      {[1, 2, 3].map((n) => (
        <div key={n} className="col-span-2 grid grid-cols-2 gap-2.5">
          <Field path={`intent.curve_${n}_at`} label={`Point ${n}, % of the signal`} />
          <Field path={`intent.curve_${n}_speed`} label="gives, r/min" />
        </div>
      ))}
    </Group>
  );
}
