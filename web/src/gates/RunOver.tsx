import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { of } from "../app/asked";
import { api, ok, say, sendBytes, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";

type Over = Schemas["RunOver"];

/** What the machine really did, laid over the ride: recorded over the link, out of a file, or one that is kept. */
export function RunOverIt({
  over,
  error,
  laid,
  lay: setLaid,
  live,
  enter,
}: {
  over?: Over;
  error: Error | null;
  laid: string;
  lay: (run: string) => void;
  live: (samples?: Schemas["RideSample"][]) => void;
  enter: (fields: Record<string, string>) => void;
}) {
  const { view, refresh } = useDesk();
  const client = useQueryClient();
  const [columns, setColumns] = useState({ time: "", speed: "", current: "" });
  const [bad, setBad] = useState("");
  const runs = useQuery({
    queryKey: ["runs", view.id, view.seq],
    placeholderData: of(view.id),
    queryFn: () => ok(api.GET("/api/drives/{id}/span/runs", { params: { path: { id: view.id } } })),
  });
  const show = async (get: () => Promise<Over>) => {
    setBad("");
    try {
      const o = await get();
      setLaid(o.run);
    } catch (e) {
      setBad(say(e));
    }
    refresh();
    void client.invalidateQueries({ queryKey: ["runs", view.id] });
  };
  const lay = async (files: File[]) => {
    const file = await oneFile(files);
    if (typeof file === "string") return setBad(file);
    if (file)
      await show(() =>
        sendBytes<Over>(
          `/api/drives/${view.id}/span/recorded?${new URLSearchParams({ ...columns, entry: newId(), name: files[0]!.name })}`,
          file,
          "text/plain",
        ),
      );
  };
  return (
    <>
      <Recorder live={live} ended={(run) => (setLaid(run), refresh())} setBad={setBad} begun={() => setLaid("")} />
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-1.5 text-[13px]">
        {!!runs.data?.length && (
          <label className="flex items-center gap-1.5">
            Kept runs
            <select className="cell text !h-[26px] !w-56 !text-[12.5px]" value={laid} onChange={(e) => setLaid(e.target.value)}>
              <option value="">none laid over</option>
              {runs.data.map((r) => (
                <option key={r.run} value={r.run}>
                  {r.name}, {r.by}
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="flex items-center gap-2">
          Lay a recorded run over
          <input
            type="file"
            multiple
            accept=".csv,.txt,.cff,.cfg,.dat"
            className="w-52"
            title="CSV, or COMTRADE: one CFF, or CFG and DAT together"
            onChange={(e) => (void lay([...(e.target.files ?? [])]), (e.target.value = ""))}
          />
        </label>
        {(["time", "speed", "current"] as const).map((k) => (
          <label key={k} className="flex items-center gap-1 text-ink-2">
            {k} is column
            <input
              className="cell text !h-[26px] !w-20 !text-[12.5px]"
              value={columns[k]}
              placeholder="by name"
              onChange={(e) => setColumns({ ...columns, [k]: e.target.value })}
            />
          </label>
        ))}
        {(bad || error) && <span className="w-full text-stop">✕ {bad || say(error)}</span>}
        {over && (
          <div className="w-full" role="status" aria-label="Recorded run">
            <span className="text-plum">Recorded</span>: rise <b className="n">{over.times.rise}</b>, fall{" "}
            <b className="n">{over.times.fall}</b>, top <b className="n">{over.times.top}</b>, peak <b className="n">{over.times.peak}</b>,
            at speed <b className="n">{over.times.steady}</b>
            {over.gaps > 0 && `; ${over.gaps} rows without figures`}.{" "}
            {over.likely.length === 0 ? <span className="text-good">✓ As predicted.</span> : over.likely.map((t) => <p key={t}>▲ {t}</p>)}
            {over.notes.map((t) => (
              <p key={t} className="text-ink-2">
                {t}
              </p>
            ))}
            <p className="mt-0.5 flex gap-4">
              <button className="act" onClick={() => setLaid("")}>
                Take it off
              </button>
              {Object.keys(over.fields).length > 0 && (
                <button className="act" title="into the fields below" onClick={() => enter(over.fields)}>
                  Enter these figures
                </button>
              )}
            </p>
          </div>
        )}
      </div>
    </>
  );
}

const words: Record<string, string> = { speed: "speed", frequency: "output", current: "current", torque: "torque", link: "DC link" };

/** Reads the running drive until its motor stands again. It commands nothing: whoever runs the motor does so at the drive. */
function Recorder({
  live,
  ended,
  begun,
  setBad,
}: {
  live: (samples?: Schemas["RideSample"][]) => void;
  ended: (run: string) => void;
  begun: () => void;
  setBad: (t: string) => void;
}) {
  const { view } = useDesk();
  const path = { params: { path: { id: view.id } } };
  const bench = useQuery({
    queryKey: ["bench-there", view.id],
    queryFn: () => ok(api.GET("/api/drives/{id}/bench", { params: { path: { id: view.id }, query: { after: 1e9 } } })),
  });
  const q = useQuery({
    queryKey: ["recording", view.id],
    refetchInterval: (s) => (s.state.data?.on ? 250 : false),
    queryFn: () => ok(api.GET("/api/drives/{id}/span/record", path)),
  });
  const r = q.data;
  const [watched, setWatched] = useState(false); // this screen has seen it under way
  useEffect(() => {
    if (!r) return;
    if (r.on) {
      setWatched(true);
      live(r.samples);
    } else if (watched) {
      setWatched(false);
      live(undefined);
      if (r.run && r.turned) ended(r.run);
    }
  }, [r]); // eslint-disable-line react-hooks/exhaustive-deps -- what it calls changes with every drawing
  const act = async (send: () => Promise<unknown>) => {
    setBad("");
    try {
      await send();
    } catch (e) {
      setBad(say(e));
    }
    void q.refetch();
  };
  const start = (from: "link" | "bench") => {
    begun();
    void act(() => ok(api.POST("/api/drives/{id}/span/record", { ...path, body: { id: newId(), from } })));
  };
  const where = view.drive.link?.address;
  return (
    <div
      className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border border-t-0 border-tin-3 bg-tin-0 px-3.5 py-1.5 text-[13px]"
      role="group"
      aria-label="Record a run"
    >
      {r?.on ? (
        <>
          <button className="ghost" onClick={() => void act(() => ok(api.POST("/api/drives/{id}/span/record/stop", path)))}>
            End recording
          </button>
          <span role="status" className="flex-1">
            <b className="text-plum">● {r.turned ? "Recording" : "Reading; the motor stands"}</b>{" "}
            <span className="n">{r.t.toFixed(1)} s</span>
            {r.figures.map((f) => (
              <span key={f.what}>
                {" · "}
                {words[f.what]}{" "}
                <b className="n">{f.value == null ? "–" : `${f.value.toFixed(Math.abs(f.value) < 100 ? 1 : 0)} ${f.unit}`}</b>
              </span>
            ))}
            <span className="text-ink-3">
              {" · "}
              {r.rate.toFixed(0)} readings a second{r.missed > 0 && `, ${r.missed} not answered`}
            </span>
          </span>
        </>
      ) : (
        <>
          <button className="ghost" disabled={!where} onClick={() => start("link")}>
            Record over the link
          </button>
          {bench.data?.there && (
            <button className="ghost" onClick={() => start("bench")}>
              Record its bench
            </button>
          )}
          {r?.message && (
            <span className="text-plum" role="status">
              {r.message}
            </span>
          )}
          <span className="flex-1 text-ink-2">
            {where
              ? "It only reads. Run and stop the motor at the drive, the area clear; it ends by itself when the motor stands again."
              : "Enter the drive's address under the sheet to record it."}
          </span>
        </>
      )}
    </div>
  );
}

/**
 * The one file that is sent, or what is missing: a CSV or a CFF as it is; of COMTRADE's CFG and DAT the single file that the standard makes
 * of them.
 */
async function oneFile(files: File[]): Promise<File | string | undefined> {
  const of = (end: string) => files.find((f) => f.name.toLowerCase().endsWith(end));
  const [cfg, dat] = [of(".cfg"), of(".dat")];
  if (!cfg && !dat) return files[0];
  if (!cfg || !dat) return "COMTRADE wants both of its files at once: CFG and DAT.";
  const text = await cfg.text();
  const kind = /^\s*(BINARY32|FLOAT32|BINARY|ASCII)\s*$/im.exec(text)?.[1]?.toUpperCase() ?? "ASCII";
  return new File(
    [`--- file type: CFG ---\r\n${text.trimEnd()}\r\n--- file type: DAT ${kind}${kind === "ASCII" ? "" : `: ${dat.size}`} ---\r\n`, dat],
    "run.cff",
  );
}
