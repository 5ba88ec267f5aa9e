import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { of } from "../app/asked";
import { api, ok, type Schemas } from "../app/client";
import { textAt, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useOnceSaved } from "../app/saver";
import { OverloadPicture } from "../picture/Overload";
import { RidePicture } from "../picture/Ride";
import { Field } from "../ui/Field";
import { RunOverIt } from "./RunOver";

const s1 = (v: number | null | undefined) => (v == null ? "none" : `${v < 10 ? v.toFixed(1) : v.toFixed(0)} s`);

/** Rise and fall as the whole drive would do them: the plan as it stands, or as a handle is moved. Let go, and it is entered. */
export function SpanRide() {
  const { view, saver } = useDesk();
  const [tried, setTried] = useState<{ rise?: number; fall?: number }>({});
  const [bare, setBare] = useState(false);
  const query = { rise_s: tried.rise ?? 0, fall_s: tried.fall ?? 0, resistor_ohm: bare ? -1 : 0 };
  const ride = useQuery({
    queryKey: ["span-ride", view.id, view.seq, query],
    placeholderData: of(view.id),
    queryFn: ({ signal }) => ok(api.GET("/api/drives/{id}/span/ride", { params: { path: { id: view.id }, query }, signal })),
  });
  const [asked, setAsked] = useState(0); // version of the plan that the shortest times were asked for
  const short = useQuery({
    queryKey: ["span-shortest", view.id, asked],
    enabled: asked > 0,
    placeholderData: of(view.id),
    queryFn: ({ signal }) => ok(api.GET("/api/drives/{id}/span/shortest", { params: { path: { id: view.id } }, signal })),
  });
  const [saving, askShortest] = useOnceSaved(saver, () => setAsked(view.version));
  const bands = useQuery({
    queryKey: ["span-bands", view.id, view.seq, query],
    enabled: ride.isSuccess && !ride.data.missing && !ride.isPlaceholderData,
    placeholderData: of(view.id),
    // Ended when it is overtaken: the server stops riding what nobody waits for.
    queryFn: ({ signal }) => ok(api.GET("/api/drives/{id}/span/bands", { params: { path: { id: view.id }, query }, signal })),
  });
  const [laid, setLaid] = useState(""); // hash of the run that is laid over
  const laidOver = useQuery({
    queryKey: ["run-over", view.id, view.seq, laid],
    enabled: laid !== "",
    placeholderData: of(view.id),
    queryFn: () => ok(api.GET("/api/drives/{id}/span/runs/{run}", { params: { path: { id: view.id, run: laid } } })),
  });
  const over = laid === "" ? undefined : laidOver.data;
  const [live, setLive] = useState<Schemas["RideSample"][]>();
  const v = ride.data;
  const old = ride.isPlaceholderData; // the picture lags a moment; what is judged waits for its own answer
  if (!v) return null;
  if (v.missing)
    return <p className="mb-3.5 border border-tin-3 bg-white p-3 text-[13px] text-ink-3">The rise and fall are drawn with {v.missing}.</p>;
  const r = v.ride;
  const top = view.drive.intent?.highest_speed?.value ?? r.top;
  const now = { rise: tried.rise ?? r.asked_rise_s, fall: tried.fall ?? r.asked_fall_s };
  const keep = (which: "rise" | "fall", seconds: number) => {
    const path = `intent.${which}`;
    saver.begin(path, textAt(view, path));
    saver.put(path, `${seconds} s`, newId());
    setTried({});
  };
  const enter = (fields: Record<string, string>) => {
    const edit = newId(); // one edit: they belong together, and one undo takes them back
    for (const [path, text] of Object.entries(fields)) {
      saver.begin(path, textAt(view, path));
      saver.put(path, text, edit);
    }
  };
  const t = asked === view.version && !short.isPlaceholderData ? short.data?.times : undefined; // those of another plan are not offered
  const [light, heavy] = [short.data?.light, short.data?.heavy];
  return (
    <section className="mb-3.5" aria-label="Rise and fall" aria-busy={old || laidOver.isPlaceholderData}>
      <RidePicture
        ride={live ? r : (over?.ride ?? r)}
        top={top}
        tried={now}
        unit="r/min at the shaft"
        over={live ?? over?.samples}
        fixed={!live && !!over}
        set={(which, seconds, done) => {
          if (done) keep(which, seconds);
          else setTried({ ...tried, [which]: seconds });
        }}
      />
      <div className="flex flex-wrap items-baseline gap-x-5 gap-y-1 border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-1.5 text-[13px]">
        <span>
          Rise <b className="n">{s1(r.rise_s)}</b>, fall <b className="n">{s1(r.fall_s)}</b>
          {r.limited_s > 0.1 && (
            <span className="text-warn">
              {" "}
              · the {r.peak_rise_a > 0.97 * r.current_limit_a ? "current" : "torque"} limit held it {r.limited_s.toFixed(1)} s
            </span>
          )}
          {r.searched_s > 0.1 && <span> · it looks {r.searched_s.toFixed(1)} s for a shaft that turns</span>}
          {r.eased_s > 0.1 && <span className="text-warn"> · bus control stretched the fall {r.eased_s.toFixed(1)} s</span>}
        </span>
        <span>
          Warmth <b className="n">{Math.round(r.warmth * 100)} %</b>
        </span>
        <label className="flex items-center gap-1.5">
          <input type="checkbox" checked={bare} onChange={(e) => setBare(e.target.checked)} /> without a resistor
        </label>
        <button className="act ml-auto" onClick={askShortest}>
          {saving || short.isFetching
            ? "Searching…"
            : asked > 0 && asked !== view.version
              ? "Shortest that holds, anew"
              : "Shortest that holds"}
        </button>
      </div>
      {!old && r.trip && (
        <p className="border border-t-0 border-tin-3 bg-white px-3.5 py-1.5 text-[13px] text-stop" role="status">
          ✕ It {r.trip.stalls ? "stalls" : "trips"} in the {r.trip.while}
          {r.trip.stalls ? " and trips" : ""} after {r.trip.t.toFixed(1)} s: {r.trip.word || r.trip.code}, {r.trip.current.toFixed(1)} A,{" "}
          {r.trip.link.toFixed(0)} V. The drive lets go, and the shaft coasts.
        </p>
      )}
      {!old && !r.trip && r.stalled && (
        <p className="border border-t-0 border-tin-3 bg-white px-3.5 py-1.5 text-[13px] text-stop" role="status">
          ✕ It stalls: it stays at {Math.abs(r.top).toFixed(0)} r/min, {r.steady_a.toFixed(1)} A.
        </p>
      )}
      {!old && r.stands && (
        <p className="border border-t-0 border-tin-3 bg-white px-3.5 py-1.5 text-[13px] text-stop" role="status">
          ✕ It does not run: {r.stands}.
        </p>
      )}
      {bands.data && !bands.isPlaceholderData && !old && !bands.data.missing && !r.trip && !r.stands && <BandsOf b={bands.data.bands} />}
      {t && (
        <dl
          className="grid grid-cols-7 gap-px border border-t-0 border-tin-3 bg-tin-2 text-[13px] max-sm:grid-cols-2"
          aria-label="Shortest that holds"
        >
          {(
            [
              ["Rise", "rise_s", "rise"],
              ["Fall, as it is set", "fall_s", "fall"],
              ["Without resistor or bus control", "fall_plain_s", "fall"],
              ["Bus control alone, asked in no time", "fall_eased_s", ""],
              [`With a resistor of ${t.resistor_ohm.toFixed(0)} Ω`, "fall_braked_s", ""],
              ["Coasting", "coast_s", ""],
              [`Direct current${t.dc_heat_kj > 0 ? `, ${t.dc_heat_kj.toPrecision(2)} kJ into the rotor` : ""}`, "dc_s", ""],
            ] as const
          )
            .map(([name, of, which]) => ({ name, which, seconds: t[of], low: light?.[of], high: heavy?.[of] }))
            .map(({ name, which, seconds, low, high }) => (
              <div key={name} className="bg-white px-2.5 py-1.5">
                <dt className="text-[12px] leading-tight text-ink-2">{name}</dt>
                <dd>
                  <span className="flex items-baseline justify-between whitespace-nowrap">
                    <b className="n">{name === "Coasting" && !t.coast_at_rest ? "does not stand" : s1(seconds)}</b>
                    {which && seconds != null && (
                      <button
                        className="act"
                        title="the longest of the band"
                        onClick={() => keep(which, Math.ceil(Math.max(seconds, high ?? 0) * 10) / 10)}
                      >
                        take<span className="sr-only"> as {which}</span>
                      </button>
                    )}
                  </span>
                  {low != null && high != null && Math.abs(high - low) > 0.05 && (
                    <span className="n block text-[11.5px] text-ink-3">
                      {s1(Math.min(low, high))} to {s1(Math.max(low, high))} by inertia
                    </span>
                  )}
                </dd>
              </div>
            ))}
        </dl>
      )}
      {!old && !r.trip && !r.stands && <OverloadOf o={v.overload} />}
      {!old && v.resistor.says && (
        <p className="border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-1.5 text-[13px] text-ink-2">
          <b className={v.resistor.needed && !v.resistor.fits ? "text-stop" : "text-ink"}>Braking resistor:</b> {v.resistor.says}
        </p>
      )}
      <RunOverIt
        over={laidOver.isPlaceholderData ? undefined : over}
        error={laid === "" ? null : laidOver.error}
        laid={laid}
        lay={setLaid}
        live={setLive}
        enter={enter}
      />
      <div
        className="grid grid-cols-5 gap-2.5 border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-2 max-sm:grid-cols-2"
        role="group"
        aria-label="Read of the real machine"
      >
        <Field path="ran.rise" label="It rose in, s" />
        <Field path="ran.fall" label="fell in, s" />
        <Field path="ran.top" label="Top, r/min" />
        <Field path="ran.peak" label="Peak, A" />
        <Field path="ran.held" label="At speed, A" />
        {!old && v.typed.said && (
          <div className="col-span-full text-[13px]" role="status" aria-label="What was read">
            {v.typed.likely.length === 0 ? (
              <span className="text-good">✓ As predicted.</span>
            ) : (
              v.typed.likely.map((t) => <p key={t}>▲ {t}</p>)
            )}
          </div>
        )}
      </div>
      {v.assumed.length > 0 && <p className="mt-1 text-[12px] text-ink-3">Taken for granted: {v.assumed.join(" ")}</p>}
    </section>
  );
}

/** The motor's overload against the plan. */
function OverloadOf({ o }: { o: Schemas["SpanOverload"] }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-1.5 text-[13px]">
      <button className="act" aria-expanded={open} onClick={() => setOpen(!open)}>
        Motor overload against the start
      </button>{" "}
      {o.missing ? (
        <span className="text-warn">▲ {o.missing}</span>
      ) : (
        <span className="text-ink-2">
          class {o.class}, {o.amps.toFixed(1)} A: a start fills <b className="n">{Math.round(o.start_uses * 100)} %</b>, back and forth it
          settles at <b className={`n ${o.cycle >= 1 ? "text-stop" : ""}`}>{Math.round(o.cycle * 100)} %</b>
        </span>
      )}
      {open && !o.missing && (
        <div className="mt-1 flex flex-wrap gap-4 bg-white p-2">
          <OverloadPicture o={o} />
          <div className="min-w-52 flex-1">
            {o.says.map((t) => (
              <p key={t} className="mb-1">
                {t}
              </p>
            ))}
            <p className="text-[12px] text-ink-3">
              <b className="text-ink">━ cold</b> · <b className="text-stop">╌ hot</b>, over the multiple of the setting (IEC 60947-4-1)
            </p>
          </div>
        </div>
      )}
    </div>
  );
}

type Bands = Schemas["Bands"];

/** Between which ends each figure lies, with the motor anywhere in its tolerances and the load anywhere in its doubts. */
function BandsOf({ b }: { b: Bands }) {
  const [why, setWhy] = useState(false);
  const figure = (v: number, unit: string) => (unit === "s" || unit === "A" ? v.toFixed(v < 100 ? 1 : 0) : v.toFixed(0));
  const rows: [string, Schemas["Band"] | null | undefined, string][] = [
    ["Rise", b.rise_s, "s"],
    ["Fall", b.fall_s, "s"],
    ["Top", b.top_rpm, "r/min"],
    ["At speed", b.steady_a, "A"],
    ["Peak, rise", b.peak_rise_a, "A"],
    ["Peak, fall", b.peak_fall_a, "A"],
    ["Torque, peak", b.peak_torque_nm, "N·m"],
    ["Link, peak", b.peak_link_v, "V"],
  ];
  return (
    <div className="border border-t-0 border-tin-3 bg-tin-0 text-[13px]">
      <dl className="grid grid-cols-8 gap-px bg-tin-2 max-lg:grid-cols-4 max-sm:grid-cols-2" aria-label="Bands">
        {rows.map(([name, x, unit]) => (
          <div key={name} className="bg-white px-2.5 py-1.5">
            <dt className="text-[12px] leading-tight text-ink-2">
              {name}, {unit}
            </dt>
            <dd>
              {x ? (
                <>
                  <b className="n">{figure(x.mid, unit)}</b>
                  <span className="n block text-[11.5px] text-ink-3">
                    {figure(x.low, unit)} to {figure(x.high, unit)}
                  </span>
                </>
              ) : (
                <b className="text-warn">may not get there</b>
              )}
            </dd>
          </div>
        ))}
      </dl>
      {b.trips.length > 0 && <p className="px-3.5 py-1 text-warn">▲ It may trip with {b.trips.join("; ")}.</p>}
      <p className="px-3.5 py-1 text-[12px] text-ink-3">
        Beneath: what the motor's tolerances (IEC 60034-1) and the load's doubts add up to.{" "}
        <button className="act" aria-expanded={why} onClick={() => setWhy(!why)}>
          What was varied
        </button>
        {why && ` ${b.rests_on.join("; ")}.`}
      </p>
    </div>
  );
}
