import { textAt, useDesk } from "../app/drive";
import { CheckList } from "../ui/CheckList";
import { Choice, Field, Tick } from "../ui/Field";
import { Cooling } from "./Cooling";
import { GateScreen } from "./GateScreen";
import { Group } from "./Intent";
import { Sources } from "./Sources";

/** What arrived, and whether supply, drive, motor, load and place fit each other. */
export function Match() {
  const { view } = useDesk();
  const enclosure = textAt(view, "site.enclosure");
  return (
    <GateScreen
      gate="match"
      title="Match"
      about="Compare the label with the order, and the drive with its supply, its motor and its place, before anything is mounted."
      figures={["derated", "cabinet", "airflow"]}
    >
      <Group title="What arrived">
        <Field path="site.ordered" label="Type as ordered" text />
        <Field path="rating.type" label="Type on the label" text />
        <Field path="rating.serial" label="Serial of the drive" text />
        <Tick path="rating.no_serial" label="drive's not legible" className="self-end" />
        <Field path="motor.serial" label="Serial of the motor" text />
        <Tick path="motor.no_serial" label="motor's not legible" className="self-end" />
        <Field path="rating.firmware" label="Firmware" text />
        <Field path="rating.short_circuit" label="Short-circuit rating, kA" />
        <Field path="rating.voltage" label="Output voltage, V" placeholder="as the supply" />
      </Group>
      <Sources />
      <Group title="Drive at its place">
        <Choice
          path="rating.duty"
          label="Duty"
          options={[
            ["heavy", "heavy"],
            ["normal", "normal"],
          ]}
        />
        <Choice
          path="site.input_phases"
          label="Phases that feed it"
          options={[
            ["3", "3"],
            ["1", "1"],
          ]}
        />
        <Choice
          path="site.filter_links"
          label="Filter and varistor links"
          options={[
            ["in", "in"],
            ["out", "out"],
          ]}
        />
        <Choice
          path="site.choke"
          label="Choke"
          options={[
            ["none", "none"],
            ["line", "line"],
            ["dc-link", "DC link"],
          ]}
        />
        <Field path="site.altitude" label="Altitude, m" />
        <Field path="site.ambient" label="Ambient inside, °C" />
        <Field path="site.switching" label="Switching, kHz" placeholder="as delivered" />
        <Choice
          path="site.enclosure"
          label="Enclosure"
          options={[
            ["wall", "on the wall"],
            ["vented", "vented"],
            ["filtered", "filtered"],
            ["closed", "closed"],
            ["heated", "heated"],
          ]}
        />
        {(enclosure === "closed" || enclosure === "heated" || enclosure === "vented" || enclosure === "filtered") && (
          <>
            <Field path="site.outside" label="Around the cabinet, °C" />
            <Field path="site.heat" label="Heat inside, kW" placeholder="3 % of the drive" />
          </>
        )}
        {(enclosure === "closed" || enclosure === "heated") && (
          <>
            <Field path="site.height" label="Cabinet height, m" />
            <Field path="site.width" label="Width, m" />
            <Field path="site.depth" label="Depth, m" />
            <Choice
              path="site.against"
              label="Its back"
              options={[
                ["free", "free"],
                ["wall", "to a wall"],
              ]}
            />
          </>
        )}
        <Choice
          path="site.mounting"
          label="Mounting"
          options={[
            ["upright", "upright, gaps kept"],
            ["side-by-side", "side by side"],
            ["on-its-side", "on its side"],
          ]}
        />
        <Field path="site.cable" label="Motor cable, m" />
      </Group>
      <Group title="Motor and terminals">
        <Choice
          path="site.motor_fit"
          label="Insulation, bearings"
          options={[
            ["inverter-duty", "made for a drive"],
            ["plain", "plain"],
            ["not-known", "not known"],
          ]}
        />
        <Cooling />
        <Field path="site.motors" label="Motors on it" placeholder="1" />
        <Choice
          path="site.encoder"
          label="Encoder"
          options={[
            ["none", "none"],
            ["wanted", "wanted"],
          ]}
        />
        {textAt(view, "site.encoder") === "wanted" && (
          <>
            <Choice
              path="site.encoder_type"
              label="Its signals"
              options={[
                ["ttl", "5 V differential"],
                ["htl", "10 to 30 V push-pull"],
                ["sine", "1 V sine"],
              ]}
            />
            <Field path="site.encoder_supply" label="It is fed with, V" />
            <Field path="site.encoder_current" label="and takes, A" placeholder="0.1, or 100 mA" />
          </>
        )}
        <Field path="site.inputs" label="Digital inputs wanted" />
        <Field path="site.outputs" label="Outputs wanted" />
        <Field path="site.analog_inputs" label="Analog inputs wanted" />
      </Group>
      <CheckList gate="match" />
    </GateScreen>
  );
}
