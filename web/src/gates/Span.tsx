import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { of } from "../app/asked";
import { api, ok, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { SpeedPicture, SpeedTable } from "../picture/Speeds";
import { Choice, Field } from "../ui/Field";
import { InertiaHelper } from "./Inertia";
import { Group, IntentGate } from "./Intent";
import { SpanRide } from "./SpanRide";
import { WhichControl } from "./WhichControl";

/** How slow, how fast, how quickly: limits, ramps, overload, in engineering units. */
export function Span() {
  return (
    <IntentGate
      gate="span"
      title="Span"
      about="Say what the machine needs, at the motor shaft. Speeds in r/min; ramps in seconds from 0 to the highest speed, or as r/min/s or Hz/s. How this drive counts them stands beside."
    >
      <SpanRide />
      <Group title="Speeds and ramps">
        <Field path="intent.lowest_speed" label="Lowest speed, r/min" />
        <Field path="intent.highest_speed" label="Highest speed, r/min" />
        <Field path="intent.rise" label="Rise, s to highest" />
        <Field path="intent.fall" label="Fall, s from highest" />
        <Choice
          path="intent.stop_mode"
          label="Stop mode"
          options={[
            ["ramp", "ramp"],
            ["coast", "coast"],
          ]}
        />
        <Choice
          path="intent.direction"
          label="Directions"
          options={[
            ["forward", "forward only"],
            ["both", "both"],
          ]}
        />
        <Field path="intent.jog" label="Jog, r/min" />
        <Field path="intent.rounding" label="Ramps rounded, %" placeholder="0" />
      </Group>
      <Speeds />
      <Group title="Load and control">
        <Choice
          path="intent.load"
          label="Load"
          options={[
            ["constant", "constant torque"],
            ["linear", "grows with speed"],
            ["quadratic", "grows with its square"],
            ["constant-power", "constant power"],
          ]}
        />
        <Field path="intent.load_inertia" label="Load's inertia at the motor" placeholder="kg·m², or lb·ft²" />
        <Field path="intent.inertia_band" label="Which may be off by" placeholder="20 %" />
        <Field path="intent.load_torque" label="Torque at plate speed, %" placeholder="100 %" />
        <Field path="intent.load_friction" label="Friction beside it, % of rated" placeholder="none" />
        <InertiaHelper />
        <Choice
          path="intent.control"
          label="Control"
          options={[
            ["volts-per-hertz", "volts per hertz"],
            ["vector", "vector"],
          ]}
        />
        <WhichControl />
        <Choice
          path="intent.slip_compensation"
          label="Slip compensation"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Choice
          path="intent.pattern"
          label="Volts pattern"
          options={[
            ["constant", "constant torque"],
            ["quadratic", "reduced"],
            ["automatic-boost", "automatic boost"],
          ]}
        />
        <Field path="intent.boost" label="Boost at standstill, %" placeholder="as delivered" />
        <Choice
          path="intent.flying_start"
          label="Flying start"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
      </Group>
      <Group title="Stopping">
        <Choice
          path="intent.bus_control"
          label="Fall lengthened by the link"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Field path="intent.resistor" label="Braking resistor, Ω" placeholder="none" />
        <Field path="intent.resistor_least" label="Drive bears at least, Ω" placeholder="its papers" />
        <Choice
          path="intent.dc_brake"
          label="DC brake at stop"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Field path="intent.dc_brake_current" label="Its current, % of motor" />
        <Field path="intent.dc_brake_time" label="Its time, s" />
        <Field path="intent.reverse_wait" label="Wait before reverse, s" />
        <Choice
          path="intent.auto_ramp"
          label="Ramps by themselves"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Choice
          path="intent.magnetise"
          label="Magnetised at standstill"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Field path="intent.preheat" label="Kept warm standing, % of motor" placeholder="as delivered" />
      </Group>
      <Group title="Protection">
        <Choice
          path="intent.overload_class"
          label="Overload class"
          options={[
            ["10", "10"],
            ["20", "20"],
            ["30", "30"],
          ]}
        />
        <Field path="intent.current_limit" label="Current limit, % of motor" />
        <Field path="intent.torque_limit" label="Torque limit, % of rated" placeholder="as delivered" />
        <Field path="intent.torque_limit_braking" label="The same, giving back" placeholder="as delivered" />
        <Choice
          path="intent.automatic_restart"
          label="Automatic restart"
          options={[
            ["off", "off"],
            ["on", "on"],
          ]}
        />
        <Field path="intent.restarts_most" label="Restarts at most" placeholder="as delivered" />
        <Choice
          path="intent.torque_off_shows"
          label="Torque off shows as"
          options={[
            ["stop", "a stop"],
            ["fault", "a fault"],
          ]}
        />
      </Group>
    </IntentGate>
  );
}

/** The same ramps in every counting; this drive's own stands out. */
function Ramps({ b }: { b: Schemas["Bounds"] }) {
  const [open, setOpen] = useState(false);
  const n = (v: number | null) => (v == null ? "–" : v.toPrecision(4));
  const own = b.ramps.find((r) => r.own);
  return (
    <div className="border border-t-0 border-tin-3 bg-white px-3.5 py-1.5 text-[13px]">
      <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
        The same ramps, counted otherwise
      </button>{" "}
      {own && (
        <span className="text-ink-2">
          this drive counts {own.counting}: <b className="n">{n(own.rise)}</b> and{" "}
          <b className="n">
            {n(own.fall)} {own.unit}
          </b>
        </span>
      )}
      {open && (
        <table className="list mt-1 w-full" aria-label="Ramps in every counting">
          <thead>
            <tr>
              <th>Counted</th>
              <th className="text-right">Rise</th>
              <th className="text-right">Fall</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {b.ramps.map((r) => (
              <tr key={r.counting} className={r.own ? "bg-plum-0" : ""}>
                <td>
                  {r.counting} {r.own && <b className="text-plum">this drive</b>}
                </td>
                <td className="n text-right">{n(r.rise)}</td>
                <td className="n text-right">{n(r.fall)}</td>
                <td className="n">{r.unit}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** What bounds the lowest and the highest speed: drawn, and in every counting. */
function Speeds() {
  const { view } = useDesk();
  const [open, setOpen] = useState(false);
  const q = useQuery({
    queryKey: ["span-bounds", view.id, view.seq],
    placeholderData: of(view.id),
    queryFn: () => ok(api.GET("/api/drives/{id}/span/bounds", { params: { path: { id: view.id } } })),
  });
  const b = q.data;
  return (
    <section className="mb-3.5" aria-label="What bounds the speeds">
      <h3 className="mb-1 text-[14px]">What bounds the speeds</h3>
      {b && b.missing !== "" && <p className="border border-tin-3 bg-white p-3 text-[13px] text-ink-3">Drawn with {b.missing}.</p>}
      {b && b.missing === "" && (
        <>
          <SpeedPicture b={b} />
          <SpeedTable b={b} />
          {b.ramps.length > 0 && <Ramps b={b} />}
          {b.standing && <p className="mt-1 text-[13px] text-ink-2">{b.standing}</p>}
          {b.fan.map((t) => (
            <p key={t} className="mt-1 text-[13px] text-ink-2">
              {t}
            </p>
          ))}
        </>
      )}
      <button className="act mt-1" aria-expanded={open} onClick={() => setOpen(!open)}>
        {open ? "Close" : "Mechanical limits, skip bands, the machine's own unit…"}
      </button>
      {open && (
        <div className="mt-1.5 grid grid-cols-4 gap-2.5 border border-tin-3 bg-tin-0 p-3.5 max-sm:grid-cols-2">
          <Field path="intent.rotor_most" label="Rotor bears, r/min" />
          <Field path="intent.gear_most" label="Gear, machine bear, r/min" />
          <Field path="intent.machine_unit" label="Machine counts in" placeholder="m/s" text />
          <Field path="intent.machine_at" label="Of that at plate speed" />
          <Field path="intent.skip_1_from" label="Skip from, r/min" />
          <Field path="intent.skip_1_to" label="to" />
          <Field path="intent.skip_2_from" label="Skip from, r/min" />
          <Field path="intent.skip_2_to" label="to" />
          <Field path="intent.static_head" label="Static part of pressure, %" placeholder="0" />
        </div>
      )}
    </section>
  );
}
