import { useState } from "react";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { Prove } from "../bench/Prove";
import { Choice, Field, useText } from "../ui/Field";
import { Group, IntentGate } from "./Intent";
import { TruthOfInputs, WhatIf, WhyNot } from "./WhyNot";

/** Who says run, who says how fast. */
export function Signal() {
  const from = useText("intent.speed_source");
  const analog = from === "voltage" || from === "current";
  return (
    <IntentGate gate="signal" title="Signal" about="Two choices that are often forgotten one by one: where the run command comes from, and where the speed comes from.">
      <Group title="Sources">
        <Choice path="intent.command_source" label="Run command from" options={[["keypad", "keypad"], ["terminals", "terminals"], ["network", "network"]]} />
        <Choice path="intent.speed_source" label="Speed from" options={[["keypad", "keypad"], ["voltage", "0–10 V"], ["current", "4–20 mA"], ["presets", "presets"], ["network", "network"]]} />
        <Choice path="intent.reference_loss" label="When the signal is lost" options={[["stop", "stop"], ["hold", "hold the speed"], ["fault", "fault"]]} />
        <Choice path="intent.power_up" label="Run held when power comes" options={[["off", "waits"], ["on", "starts"]]} />
      </Group>
      <Group title={analog ? `What the ${from === "voltage" ? "0–10 V" : "4–20 mA"} signal asks for` : "What an analog signal asks for"}>
        <Field path="intent.reference_low" label="At the low end, r/min" />
        <Field path="intent.reference_high" label="At the high end, r/min" />
        <Field path="intent.filter" label="Filter, s" placeholder="as delivered" />
      </Group>
      {analog && <Measured unit={from === "voltage" ? "V" : "mA"} />}
      <Group title="Presets, r/min at the shaft">
        <Field path="intent.preset_1" label="Preset 1" />
        <Field path="intent.preset_2" label="Preset 2" />
        <Field path="intent.preset_3" label="Preset 3" />
        <Field path="intent.preset_4" label="Preset 4" />
        <Field path="intent.preset_5" label="Preset 5" />
        <Field path="intent.hand_speed" label="Hand speed, kept" />
      </Group>
      <Prove />
      <WhatIf />
      <TruthOfInputs />
      <WhyNot />
      <p className="text-[13px] text-ink-2">A drive left in hand ignores the plant. A source changed while run is held may start the motor: change it with both torque-off channels open and the area clear.</p>
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
        <div key={id} className="col-span-2 grid grid-cols-2 gap-2.5" data-point={i + 1}>
          <Field path={`signal.points.${id}.in`} label={`Point ${i + 1}, ${unit}`} />
          <Field path={`signal.points.${id}.out`} label="gave, r/min" />
        </div>
      ))}
      <div className="col-span-full text-[13px]">
        <button className="act" onClick={() => setMore([...more, newId()])}>
          Add a point
        </button>{" "}
        <span className="text-ink-3">{ids.length < 2 ? "Two or more, near both ends: the line through them is held against what is wanted, and the setting named that mends it." : "Cleared fields take a point out."}</span>
      </div>
    </Group>
  );
}
