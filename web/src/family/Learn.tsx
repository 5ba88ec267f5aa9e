import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useHere, useWhen } from "../app/place";
import { pace, useLearning, type Chart, type Line } from "./learning";

type Match = Schemas["Match"];
type Taken = (m: Match, words: string) => void;

/** Finds the register of a setting by one change at the keypad, or that of a figure by two speeds. It only reads. */
export function Learn({ kind, choices, take }: { kind: "setting" | "figure"; choices?: string; take: Taken }) {
  const [open, setOpen] = useState(false);
  const { place } = useHere();
  const [id, setID] = useState("");
  const drives = useQuery({
    queryKey: ["yard", place.id, "learn"],
    queryFn: () => ok(api.GET("/api/places/{id}/yard", { params: { path: { id: place.id }, query: { limit: 500 } } })),
    enabled: open,
  });
  const drive = useQuery({
    queryKey: ["drive", id],
    queryFn: () => ok(api.GET("/api/drives/{id}", { params: { path: { id } } })),
    enabled: id !== "",
  });
  const address = drive.data?.drive.link?.address;
  if (!open)
    return (
      <button type="button" className="act self-start" onClick={() => setOpen(true)}>
        {kind === "setting" ? "Find its register at a drive…" : "Find the registers of figures at a drive…"}
      </button>
    );
  return (
    <section aria-label="Learn at a drive" className="flex flex-col gap-2 border-y-2 border-tin-3 py-2">
      <div className="flex items-baseline gap-2">
        <h3 className="flex-1 text-[14px]">Learn at a drive</h3>
        <button type="button" className="act" onClick={() => setOpen(false)}>
          close
        </button>
      </div>
      <label>
        <span className="lbl">Drive</span>
        <select className="cell text" value={id} onChange={(e) => setID(e.target.value)}>
          <option value="">which one answers</option>
          {drives.data?.rows.map((r) => (
            <option key={r.id} value={r.id}>
              {r.tag}
            </option>
          ))}
        </select>
      </label>
      {drives.error && <p className="text-[13px] text-stop">✕ {say(drives.error)}</p>}
      {id && drive.data && !address && (
        <p className="text-[13px] text-warn">▲ No address is entered for it: enter it on its page, at Settings sheet.</p>
      )}
      {id && address && drive.data && (
        <At key={id} drive={id} tag={drive.data.drive.tag ?? ""} address={address} kind={kind} choices={choices} take={take} />
      )}
    </section>
  );
}

function At(props: { drive: string; tag: string; address: string; kind: "setting" | "figure"; choices?: string; take: Taken }) {
  const [line, setLine] = useState<Line>({ shared: false, owner: "" });
  const l = useLearning(props.drive);
  const ready = !line.shared || line.owner.trim() !== "";
  return (
    <>
      <p className="text-[13px] text-ink-2">
        <b className="n font-medium">{props.address}</b>. Registers are read, {pace(line)} requests a second; nothing is written.
      </p>
      <label className="flex items-start gap-2 text-[13px]">
        <input type="checkbox" className="mt-0.5" checked={line.shared} onChange={(e) => setLine({ ...line, shared: e.target.checked })} />
        <span>A controller uses this line</span>
      </label>
      {line.shared && (
        <>
          <label>
            <span className="lbl">Who answers for the controller, and has agreed</span>
            <input className="cell text" value={line.owner} onChange={(e) => setLine({ ...line, owner: e.target.value })} />
          </label>
          <p className="text-[12.5px] text-warn">
            ▲ Only with a connection that the controller does not need. It ends at the first answer that is late.
          </p>
        </>
      )}
      <Search l={l} line={line} ready={ready} />
      {l.left !== null && (
        <p className="text-[13px]" role="status">
          {l.left > 0 ? `${l.left} requests to come. ` : "Asking… "}
          <button type="button" className="act" onClick={l.stop}>
            stop
          </button>
        </p>
      )}
      {l.said && <p className="text-[13px] text-stop">✕ {l.said}</p>}
      {l.known && l.known.chart.has.length > 0 && <Change {...props} l={l} line={line} ready={ready} />}
    </>
  );
}

/** Which registers answer. */
function Search({ l, line, ready }: { l: ReturnType<typeof useLearning>; line: Line; ready: boolean }) {
  const [from, setFrom] = useState("0");
  const [to, setTo] = useState("19999");
  const [most, setMost] = useState("32");
  const chart = l.known?.chart;
  const idle = l.left === null;
  const ask = (c: Chart, more: number) => void l.search(c, c.asked + more, line);
  const begin = () => {
    const wrong = [
      ["From register", from],
      ["To", to],
      ["At once, most", most],
    ].find(([, text]) => !/^\s*\d{1,5}\s*$/.test(text!));
    if (wrong) return l.say(`${wrong[0]}: got ${wrong[1]!.trim() || "nothing"}, want a whole number`);
    ask({ from: Number(from), to: Number(to), most: Number(most), has: [], not: [], doubt: [], asked: 0 }, searches);
  };
  if (!chart)
    return (
      <>
        <div className="grid grid-cols-3 gap-2">
          {(
            [
              ["From register", from, setFrom],
              ["To", to, setTo],
              ["At once, most", most, setMost],
            ] as const
          ).map(([label, text, set]) => (
            <label key={label}>
              <span className="lbl">{label}</span>
              <input className="cell text" inputMode="numeric" value={text} onChange={(e) => set(e.target.value)} />
            </label>
          ))}
        </div>
        <button type="button" className="btn self-start" disabled={!idle || !ready} onClick={begin}>
          Look which registers answer
        </button>
        <p className="text-[12.5px] text-ink-3">
          At most {searches} requests: {lasts(searches / pace(line))}.
        </p>
      </>
    );
  const n = chart.has.reduce((sum, s) => sum + s.to - s.from + 1, 0);
  return (
    <p className="text-[13px]">
      <b className="font-semibold">{n.toLocaleString("en")}</b> registers answer in {chart.has.length} runs, after {chart.asked} requests.{" "}
      {l.known!.done && l.known!.stride > 1 && `Every ${l.known!.stride}th was asked for: a shorter run may not have been met. `}
      {(!l.known!.done || l.known!.stride > 0) && idle && (
        <>
          <button type="button" className="act" disabled={!ready} onClick={() => ask(chart, searches)}>
            {l.known!.done ? "look closer" : "go on"}
          </button>{" "}
        </>
      )}
      {idle && (
        <button type="button" className="act" onClick={l.forget}>
          begin anew
        </button>
      )}
    </p>
  );
}

const searches = 600;
const lasts = (s: number) => (s < 90 ? `${Math.ceil(s)} s` : `${Math.ceil(s / 60)} min`);

/** Readings before the first change. */
const twice = 2;

/** What was shown before and after, what was read, and what follows. */
function Change({
  l,
  line,
  ready,
  kind,
  choices,
  tag,
  take,
}: {
  l: ReturnType<typeof useLearning>;
  line: Line;
  ready: boolean;
  kind: "setting" | "figure";
  choices?: string;
  tag: string;
  take: Taken;
}) {
  const when = useWhen();
  const [before, setBefore] = useState("");
  const [after, setAfter] = useState("");
  const [what, setWhat] = useState("frequency Hz");
  const [shown, setShown] = useState<Record<string, string>>({}); // by the time of the reading
  const [found, setFound] = useState<Schemas["Learnt"] | null>(null);
  const known = l.known!;
  const first = known.passes.length < twice; // what moves by itself is not known yet
  const idle = l.left === null && ready;
  const setting = kind === "setting";
  /** Compares what was read; the newest reading showed what stands in the second field. */
  async function compare(passes: typeof known.passes, chart: Chart, labels: Record<string, string>) {
    const last = passes.length - 1;
    try {
      const f = await ok(
        api.POST("/api/learn/compare", {
          body: {
            kind,
            chart,
            readings: passes.map((p, i) => ({ shown: i === last ? after : (labels[p.at] ?? before), values: p.values })),
          },
        }),
      );
      setFound(f);
      l.say("");
      // Where nothing moved, the change had not come there yet: that reading showed what stood before.
      const at = passes[last]?.at ?? "";
      setShown(f.fits.length + f.moved.length > 0 ? { ...labels, [at]: after } : labels);
    } catch (e) {
      l.say(say(e));
    }
  }
  async function readAgain() {
    const k = await l.read(setting ? Math.max(1, twice - known.passes.length) : 1, line);
    if (k && setting && !first) await compare(k.passes, k.chart, shown);
  }
  const look = () => void compare(setting ? known.passes : known.passes.slice(-2), known.chart, shown);
  const two = known.passes.slice(-2);
  const words = `learnt at ${tag}${setting ? `, ${before} and ${after} at the keypad` : ""}${line.shared ? ` (agreed: ${line.owner})` : ""}`;
  return (
    <div className="flex flex-col gap-2">
      {!setting && (
        <label>
          <span className="lbl">Figure on the display</span>
          <select className="cell text" value={what} onChange={(e) => (setWhat(e.target.value), setFound(null))}>
            {["frequency Hz", "speed r/min", "current A", "torque %", "link V"].map((w) => (
              <option key={w}>{w}</option>
            ))}
          </select>
        </label>
      )}
      <div className="grid grid-cols-2 gap-2">
        <Shown label={setting ? "The keypad shows" : "It showed, first reading"} text={before} set={setBefore} choices={choices} />
        {(!first || !setting) && (
          <Shown label={setting ? "Changed there, it shows" : "It showed, last reading"} text={after} set={setAfter} choices={choices} />
        )}
      </div>
      {setting ? (
        <>
          <p className="text-[13px] text-ink-2">
            {first
              ? "Everything is read twice first, to know what moves by itself. Touch nothing meanwhile."
              : `Change this one thing at the keypad and keep it; type what it shows then. Everything else stands since ${when(known.passes[0]!.at, true).slice(-8)}.`}
          </p>
          <button
            type="button"
            className="btn self-start"
            disabled={!idle || (!first && (!before || !after || before === after))}
            onClick={() => void readAgain()}
          >
            {first ? "Read twice" : "Read again"}
          </button>
        </>
      ) : (
        <>
          <p className="text-[13px] text-ink-2">
            Read at one steady speed and again at another, and type what the display showed at each.
            {two.length > 0 && ` Read at ${two.map((p) => when(p.at, true).slice(-8)).join(" and ")}.`}
          </p>
          <div className="flex gap-2">
            <button type="button" className="ghost" disabled={!idle} onClick={() => void readAgain()}>
              Read at this speed
            </button>
            <button type="button" className="btn" disabled={!idle || two.length < 2 || !before || !after} onClick={look}>
              Find it
            </button>
          </div>
        </>
      )}
      {found && <What found={found} setting={setting} take={(m) => (take(m, setting ? words : what), setFound(null))} />}
      {found && found.fits.length === 0 && setting && (
        <p className="text-[13px]">
          <button type="button" className="act" onClick={look}>
            compare again
          </button>{" "}
          after a number above was put right, or{" "}
          <button type="button" className="act" onClick={() => (l.again(), setShown({}), setFound(null))}>
            read from the beginning
          </button>
          .
        </p>
      )}
    </div>
  );
}

function Shown({ label, text, set, choices }: { label: string; text: string; set: (s: string) => void; choices?: string }) {
  const list = choices
    ?.split(";")
    .map((c) => /^\s*(-?\d+)\s*=\s*(.*?)(?:\s*→.*)?$/.exec(c))
    .filter((m) => m !== null);
  return (
    <label>
      <span className="lbl">{label}</span>
      {list && list.length > 0 ? (
        <select className="cell text" value={text} onChange={(e) => set(e.target.value)}>
          <option value="">–</option>
          {list.map((m) => (
            <option key={m[1]} value={m[1]}>
              {m[2]}
            </option>
          ))}
        </select>
      ) : (
        <input className="cell text" inputMode="decimal" value={text} onChange={(e) => set(e.target.value)} />
      )}
    </label>
  );
}

const holds: Record<Match["type"], string> = { u16: "", s16: ", signed", u32: ", 32 bits", s32: ", 32 bits signed" };

/** What was found, to be taken into the draft. */
function What({ found, setting, take }: { found: Schemas["Learnt"]; setting: boolean; take: (m: Match) => void }) {
  const most = 6;
  const line = (m: Match) => (
    <li key={`${m.register} ${m.type} ${m.scale}`} className="flex items-baseline gap-2 border-b border-tin-2 py-1 text-[13px]">
      <span className="flex-1">
        Register <b className="n font-semibold">{m.register}</b>
        {holds[m.type]}
        {m.word_order === "low-first" && ", low word first"}
        {m.byte_order && ", bytes turned"}
        {m.scale && (
          <>
            , <span className="n">{m.scale}</span> to one shown
          </>
        )}
        <span className="n block text-[12px] text-ink-3">{m.raw.join(" → ")}</span>
        {m.scale && !m.round && <span className="block text-warn">▲ no round scale: change it once more to be sure</span>}
      </span>
      <button type="button" className="act" onClick={() => take(m)}>
        take
      </button>
    </li>
  );
  return (
    <section aria-label="What was found">
      {found.fits.length === 0 && (
        <p className="text-[13px] text-warn">
          ▲ No register follows what was shown{setting && found.moved.length > 0 ? "; these moved" : ""}.
          {setting &&
            found.moved.length === 0 &&
            " Was the new value kept at the keypad? Its register may lie where nothing was asked for."}
        </p>
      )}
      {found.fits.length > 1 && (
        <p className="text-[13px] text-warn">
          ▲ {found.fits.length} fit{found.fits.length > most ? `, the likeliest ${most} are shown` : ""}:{" "}
          {setting ? "change it once more" : "read at another speed"} to tell them apart.
        </p>
      )}
      <ul>{(found.fits.length > 0 ? found.fits : found.moved).slice(0, most).map(line)}</ul>
      {setting && found.alone > 0 && <p className="text-[12.5px] text-ink-3">{found.alone} move by themselves and are left out.</p>}
    </section>
  );
}
