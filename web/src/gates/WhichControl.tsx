import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { textAt, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { useOnceSaved } from "../app/saver";
import { LaidPicture, type Pen } from "../picture/Laid";
import { Dialog } from "../ui/Dialog";

type Tried = Schemas["ControlTried"];
type Held = Schemas["Held"];

const pens: Record<string, Pen> = { "volts-per-hertz": "first", vector: "second", encoder: "third" };
const at = ["at standstill", "at 2 %", "at 10 %", "at 50 %"];

/** Which control for this job: each way tried with the plan on its own bench, with what it asks of the person, side by side. */
export function WhichControl() {
  const { view, saver } = useDesk();
  const [open, setOpen] = useState(false);
  const [saving, ask] = useOnceSaved(saver, () => setOpen(true));
  const query = useQuery({
    queryKey: ["span-controls", view.id, view.version],
    enabled: open,
    queryFn: () => ok(api.GET("/api/drives/{id}/span/controls", { params: { path: { id: view.id } } })),
  });
  const v = query.data;
  const take = (t: Tried) => {
    const edit = newId();
    const fields: Record<string, string> = { "intent.control": t.control === "volts-per-hertz" ? "volts-per-hertz" : "vector" };
    const encoder = t.control === "encoder" ? "wanted" : "none";
    if ((textAt(view, "site.encoder") === "wanted") !== (encoder === "wanted")) fields["site.encoder"] = encoder;
    for (const [path, text] of Object.entries(fields)) {
      saver.begin(path, textAt(view, path));
      saver.put(path, text, edit);
    }
    setOpen(false);
  };
  return (
    <>
      <p className="text-[13px]">
        <button className="act" onClick={ask}>
          {saving ? "Saving…" : "Which control for this job?"}
        </button>
      </p>
      <Dialog open={open} close={() => setOpen(false)} title="Which control for this job" wide>
        {query.error ? (
          <p className="text-stop">✕ {say(query.error)}</p>
        ) : !v ? (
          <p>Trying each on the bench…</p>
        ) : v.missing ? (
          <p className="text-ink-2">This is worked out with {v.missing}.</p>
        ) : (
          <>
            <p className="mb-2 text-[13.5px]">{v.says}</p>
            <LaidPicture
              of={v.tried.map((t) => ({ key: t.control, title: t.title, pen: pens[t.control] ?? "second", samples: t.does.ride.samples }))}
              lanes={["speed", "current"]}
              label={`The plan by ${v.tried.map((t) => t.title.toLowerCase()).join(", ")}`}
            />
            <table className="mt-2 w-full border-collapse text-[13px]">
              <thead>
                <tr className="text-left align-bottom">
                  <th className="pr-2 font-normal text-ink-3">with {v.torque_nm.toFixed(1)} N·m</th>
                  {v.tried.map((t) => (
                    <th key={t.control} className="w-[29%] border-l border-tin-2 px-2">
                      {t.title}
                      {t.planned && <span className="c ml-2 font-normal text-plum">planned</span>}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {at.map((words, i) => (
                  <Line key={words} name={words} tried={v.tried} of={(t) => <Figure h={t.does.held[i]} />} />
                ))}
                {v.lowest > 0 && (
                  <Line name={`at ${v.lowest.toFixed(0)} r/min, its lowest`} tried={v.tried} of={(t) => <Figure h={t.does.lowest} />} />
                )}
                <Line name="the plan" tried={v.tried} of={(t) => <Rides t={t} />} />
                <Line
                  name="to be entered"
                  tried={v.tried}
                  of={(t) => (
                    <>
                      <b className="n">{t.entries}</b> settings, <b className="n">{t.presses}</b> keys
                    </>
                  )}
                />
                <Line name="to be tested" tried={v.tried} of={(t) => t.tests.join("; ")} />
                <Line
                  name="about"
                  tried={v.tried}
                  of={(t) => (
                    <>
                      <b className="n">{t.minutes.toFixed(0)}</b> min
                      {t.does.tune_s > 0 && `, of which the tune ${t.does.tune_s.toFixed(0)} s`}
                    </>
                  )}
                />
                <tr>
                  <td className="pt-2">
                    <button className="btn !px-3 !py-1" onClick={() => setOpen(false)}>
                      Done
                    </button>
                  </td>
                  {v.tried.map((t) => (
                    <td key={t.control} className="border-l border-tin-2 px-2 pt-2">
                      {!t.missing && !t.planned && (
                        <button className="ghost !px-3 !py-1" onClick={() => take(t)}>
                          Take it
                        </button>
                      )}
                    </td>
                  ))}
                </tr>
              </tbody>
            </table>
            <p className="c mt-2 text-[12.5px] text-ink-3">
              {v.hangs
                ? "The torque pulls at every speed, as this load does."
                : "At standstill the torque pulls, as a hanging load does; above it rubs."}{" "}
              Tried on the bench, after its tune: it proves nothing of the machine. Entries at 12 s and keys at half a second each, by
              common practice.
            </p>
          </>
        )}
        {!v?.tried.length && (
          <p className="mt-3">
            <button className="btn" onClick={() => setOpen(false)}>
              Done
            </button>
          </p>
        )}
      </Dialog>
    </>
  );
}

function Line({ name, tried, of }: { name: string; tried: Tried[]; of: (t: Tried) => ReactNode }) {
  return (
    <tr className="border-t border-tin-2 align-baseline">
      <th scope="row" className="py-0.5 pr-2 text-left font-normal text-ink-2">
        {name}
      </th>
      {tried.map((t) => (
        <td key={t.control} data-control={t.control} className="border-l border-tin-2 px-2">
          {t.missing ? <span className="text-ink-3">{t.missing}</span> : of(t)}
        </td>
      ))}
    </tr>
  );
}

function Figure({ h }: { h: Held | undefined }) {
  if (!h) return null;
  return h.holds ? (
    <>
      <span className="text-good">✓</span> <b className="n">{h.current.toFixed(1)} A</b>, {Math.abs(h.speed).toFixed(0)} r/min
    </>
  ) : (
    <span className="text-stop">✕ {h.says}</span>
  );
}

function Rides({ t }: { t: Tried }) {
  const r = t.does.ride;
  if (r.trip)
    return (
      <span className="text-stop">
        ✕ trips in the {r.trip.while}: {r.trip.word || r.trip.code}
      </span>
    );
  if (r.stalled) return <span className="text-stop">✕ stalls</span>;
  if (r.stands) return <span className="text-stop">✕ {r.stands}</span>;
  return (
    <>
      <span className="text-good">✓</span> at most <b className="n">{Math.max(r.peak_rise_a, r.peak_fall_a).toFixed(1)} A</b>
    </>
  );
}
