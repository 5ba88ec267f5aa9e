import { useText } from "../ui/Field";
import { Prove } from "../bench/Prove";
import { Choice, Field } from "../ui/Field";
import { Group, IntentGate } from "./Intent";
import { TruthOfInputs, WhyNot } from "./WhyNot";

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
      </Group>
      <Group title={analog ? `What the ${from === "voltage" ? "0–10 V" : "4–20 mA"} signal asks for` : "What an analog signal asks for"}>
        <Field path="intent.reference_low" label="At the low end, r/min" />
        <Field path="intent.reference_high" label="At the high end, r/min" />
      </Group>
      <Group title="Presets, r/min at the shaft">
        <Field path="intent.preset_1" label="Preset 1" />
        <Field path="intent.preset_2" label="Preset 2" />
        <Field path="intent.preset_3" label="Preset 3" />
      </Group>
      <Prove />
      <TruthOfInputs />
      <WhyNot />
      <p className="text-[13px] text-ink-2">A drive left in hand ignores the plant. A source changed while run is held may start the motor: change it with both torque-off channels open and the area clear.</p>
    </IntentGate>
  );
}
