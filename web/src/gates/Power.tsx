import { textAt, useDesk } from "../app/drive";
import { BodyPicture } from "../picture/Body";
import { LinkPlate } from "../picture/LinkPlate";
import { CheckList } from "../ui/CheckList";
import { Choice, Field } from "../ui/Field";
import { GateScreen } from "./GateScreen";
import { Group } from "./Intent";

/** Mounted, earthed first, motor linked and wired, supplied last. */
export function Power() {
  const { view } = useDesk();
  const leads = textAt(view, "motor.leads");
  const scheme = view.state.linking.scheme;
  return (
    <GateScreen
      gate="power"
      title="Power"
      about="Every earth first, on and off last. Motor on U, V, W; supply last. Sizes and protection by your local code and the drive's papers."
      figures={["drop-line", "drop-motor", "peak"]}
    >
      {view.state.body && (
        <section className="mb-3.5" aria-label="How it is fixed and opened">
          <BodyPicture body={view.state.body} print={`/api/drives/${view.id}/holes.pdf`} />
        </section>
      )}
      <Group title="Motor terminal box">
        <Choice
          path="motor.leads"
          label="Leads that come out"
          options={[
            ["3", "3"],
            ["6", "6"],
            ["9", "9"],
            ["12", "12"],
          ]}
        />
        <Choice
          path="motor.marking"
          label="Marked"
          options={[
            ["uvw", "U1 V1 W1 …"],
            ["t", "T1 T2 T3 …"],
          ]}
        />
        {(leads === "9" || leads === "12") && (
          <Choice
            path="motor.winding"
            label="Wound inside in"
            options={[
              ["star", "star"],
              ["delta", "delta"],
            ]}
          />
        )}
        <Field path="site.cable" label="Motor cable, m" />
        {scheme && (
          <div className="col-span-2">
            <p className="lbl">
              Linked in {scheme.connection}, for the row in use <span className="font-normal text-ink-3">dead work</span>
            </p>
            <LinkPlate scheme={scheme} />
          </div>
        )}
        {scheme && (
          <div className="col-span-2 flex flex-col gap-2">
            <p className="text-[13px] text-ink-2">{view.state.linking.other}</p>
            <Field path="motor.fitted_joins" label="As found: links, like U2-V2-W2" text />
            <Field path="motor.fitted_lines" label="As found: on U, V, W, like U1, V1, W1" text />
          </div>
        )}
      </Group>
      <Group title="Conductors and protection">
        <Choice
          path="power.code"
          label="Chosen by"
          options={[
            ["iec-b2", "IEC, in conduit (B2)"],
            ["iec-c", "IEC, on a wall (C)"],
            ["nec", "NEC, 75 °C"],
          ]}
        />
        <Field path="power.input" label="Rated input current, A" />
        <Field path="power.line_area" label="Supply, mm² or AWG" />
        <Field path="power.motor_area" label="Motor, mm² or AWG" />
        <Field path="power.line_length" label="Supply cable, m" />
        <Field path="power.ambient" label="Where they lie, °C" placeholder="30" />
        <Field path="power.protection" label="Fuse or breaker, A" />
        <Field path="power.protection_most" label="Drive's papers: most, A" />
        <Field path="power.torque" label="Label: power terminals, N·m" />
        <Field path="power.earth_torque" label="Label: earth terminals, N·m" />
        <Field path="power.motor_torque" label="Motor's terminal box, N·m" placeholder="none stated" />
        <Field path="power.control_torque" label="Control terminals, N·m" placeholder="clamped by spring" />
      </Group>
      <CheckList gate="power" />
    </GateScreen>
  );
}
