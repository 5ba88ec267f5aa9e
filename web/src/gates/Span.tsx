import { Choice, Field } from "../ui/Field";
import { Group, IntentGate } from "./Intent";
import { SpanRide } from "./SpanRide";

/** How slow, how fast, how quickly: limits, ramps, overload, in engineering units. */
export function Span() {
  return (
    <IntentGate gate="span" title="Span" about="Say what the machine needs, at the motor shaft. Speeds in r/min; ramps in seconds from 0 to the highest speed, or as r/min/s or Hz/s. How this drive counts them stands beside.">
      <SpanRide />
      <Group title="Speeds and ramps">
        <Field path="intent.lowest_speed" label="Lowest speed, r/min" />
        <Field path="intent.highest_speed" label="Highest speed, r/min" />
        <Field path="intent.rise" label="Rise, s to highest" />
        <Field path="intent.fall" label="Fall, s from highest" />
        <Choice path="intent.stop_mode" label="Stop mode" options={[["ramp", "ramp"], ["coast", "coast"]]} />
        <Choice path="intent.direction" label="Directions" options={[["forward", "forward only"], ["both", "both"]]} />
        <Field path="intent.jog" label="Jog, r/min" />
      </Group>
      <Group title="Load and control">
        <Choice path="intent.load" label="Load" options={[["constant", "constant torque"], ["linear", "grows with speed"], ["quadratic", "grows with its square"], ["constant-power", "constant power"]]} />
        <Field path="intent.load_inertia" label="Load's inertia at the motor" placeholder="kg·m², or lb·ft²" />
        <Field path="intent.inertia_band" label="Which may be off by" placeholder="20 %" />
        <Field path="intent.load_torque" label="Torque at plate speed, %" placeholder="100 %" />
        <Choice path="intent.control" label="Control" options={[["volts-per-hertz", "volts per hertz"], ["vector", "vector"]]} />
        <Choice path="intent.slip_compensation" label="Slip compensation" options={[["off", "off"], ["on", "on"]]} />
        <Choice path="intent.pattern" label="Volts pattern" options={[["constant", "constant torque"], ["quadratic", "reduced"], ["automatic-boost", "automatic boost"]]} />
      </Group>
      <Group title="Protection">
        <Choice path="intent.overload_class" label="Overload class" options={[["10", "10"], ["20", "20"], ["30", "30"]]} />
        <Field path="intent.current_limit" label="Current limit, % of motor" />
        <Choice path="intent.automatic_restart" label="Automatic restart" options={[["off", "off"], ["on", "on"]]} />
        <Choice path="intent.torque_off_shows" label="Torque off shows as" options={[["stop", "a stop"], ["fault", "a fault"]]} />
      </Group>
    </IntentGate>
  );
}
