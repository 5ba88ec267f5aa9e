import { useQuery } from "@tanstack/react-query";
import { useRef, useState, type ReactNode } from "react";
import { Link } from "react-router";
import { api, ok, say, sendBytes, type Line, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { goOn } from "../app/enter";
import { newId } from "../app/ids";
import { useTyped } from "../app/outbox";
import { Field } from "../ui/Field";
import { Foot } from "../ui/Foot";
import { ReadingColumn } from "../ui/Reading";
import { All } from "./All";
import { Configuration } from "./Configuration";
import { Keypad } from "./Keypad";
import { KeypadColumn } from "./KeypadColumn";
import { LineColumn } from "./LineColumn";
import { Move } from "./Move";
import { Probe } from "./Probe";
import { SentLog } from "./Sent";
import { Unkept } from "./Unkept";
import { SettingColumn } from "./SettingColumn";
import { Voice } from "./Voice";

type Tab = "enter" | "keypad" | "voice" | "undecided" | "all" | "sent" | "move";

/** The settings sheet: what this drive is to hold, why, and what it reads back. */
export function Sheet() {
  const desk = useDesk();
  const { view } = desk;
  const [tab, setTab] = useState<Tab>("enter");
  const [current, setCurrent] = useState("");
  const lines = view.state.lines;
  const toEnter = lines.filter((l) => l.verdict !== "not-planned");
  const undecided = lines.filter((l) => l.verdict === "not-planned");
  const shown = tab === "undecided" ? undecided : toEnter;
  const asked = toEnter.filter((l) => l.verdict !== "cannot");
  const held = asked.filter((l) => l.verdict === "holds").length;
  const line = lines.find((l) => l.code === current) ?? shown[0];
  return (
    <div className="printfull split">
      <main className="printfull flex min-h-0 flex-col">
        <div className="printfull flex min-h-0 flex-1 flex-col px-5 pt-4">
          <div className="flex flex-wrap items-baseline gap-3.5">
            <h1>Settings sheet</h1>
            <b className="hidden print:inline">
              {view.drive.tag} {view.drive.machine}, {view.drive.where}
            </b>
            <span className="c text-ink-2">
              {view.family.name ? (
                <>
                  in the words of{" "}
                  <Link
                    className="font-semibold text-plum hover:underline"
                    to={`/families/${view.family.name}?version=${view.family.version}`}
                  >
                    {view.family.name} {view.family.version}
                  </Link>
                </>
              ) : (
                "Choose the drive's family at gate Plate."
              )}
            </span>
            <Lists />
          </div>
          <div role="tablist" aria-label="Which settings" className="noprint mt-2 mb-2.5 flex flex-wrap">
            {(
              [
                ["enter", `To enter ${toEnter.length}`],
                ["keypad", "At the keypad"],
                ["voice", "By voice"],
                ["undecided", `Not decided ${undecided.length}`],
                ["all", `All ${view.family.settings || ""}`],
                ["sent", "Sent"],
                ["move", "Move"],
              ] as [Tab, string][]
            ).map(([k, name]) => (
              <button
                key={k}
                role="tab"
                aria-selected={tab === k}
                className={`-mr-px border border-tin-3 px-3 py-[7px] [font-stretch:90%] ${tab === k ? "bg-ink text-white" : "bg-tin-0"}`}
                onClick={() => setTab(k)}
              >
                {name}
              </button>
            ))}
          </div>
          <div className={`mb-2 flex items-center gap-3 ${tab === "enter" || tab === "undecided" ? "" : "hidden"}`}>
            <div
              className="h-2 flex-1 bg-tin-2"
              role="progressbar"
              aria-label="Settings read back"
              aria-valuemin={0}
              aria-valuemax={asked.length}
              aria-valuenow={held}
            >
              <div className="h-full bg-plum" style={{ width: `${asked.length ? (held / asked.length) * 100 : 0}%` }} />
            </div>
            <span className="n">
              {held} / {asked.length} read back
            </span>
          </div>
          <Unkept />
          <div className="printfull min-h-0 flex-1 overflow-y-auto border border-b-0 border-tin-3 bg-white" tabIndex={-1}>
            {tab === "undecided" && <Take lines={undecided} />}
            {(tab === "enter" || tab === "undecided") && <Table lines={shown} current={line?.code ?? ""} choose={setCurrent} />}
            {view.family.name && others[tab]?.(setCurrent)}
          </div>
        </div>
        <LinkFoot />
      </main>
      <ReadingColumn>
        {tab === "keypad" || tab === "voice" ? (
          <KeypadColumn />
        ) : tab === "all" && current && !lines.some((l) => l.code === current) ? (
          <SettingColumn code={current} />
        ) : line ? (
          <LineColumn key={line.code} line={line} />
        ) : (
          <p className="text-[13px] text-ink-3">Nothing is planned yet. Type the plate, then say what is wanted at Span and Signal.</p>
        )}
      </ReadingColumn>
    </div>
  );
}

const others: Partial<Record<Tab, (choose: (code: string) => void) => ReactNode>> = {
  keypad: () => <Keypad />,
  voice: () => <Voice />,
  all: (choose) => <All choose={choose} />,
  sent: () => <SentLog />,
  move: () => <Move />,
};

const verdicts: Record<string, [string, string]> = {
  holds: ["✓", "text-good"],
  differs: ["✕", "text-stop"],
  "not-known": ["✕ not known", "text-stop"],
  cannot: ["✕ cannot", "text-stop"],
  "not-read": ["", "text-ink-3"],
  "not-planned": ["", "text-ink-3"],
};

function Table({ lines, current, choose }: { lines: Line[]; current: string; choose: (c: string) => void }) {
  let group = "";
  return (
    <table className="list w-full table-fixed max-sm:table-auto">
      <caption className="sr-only">Settings to enter, with what the drive reads back</caption>
      <colgroup>
        <col className="w-[15%]" />
        <col className="w-[19%] max-sm:hidden" />
        <col className="w-[15%]" />
        <col className="max-sm:hidden" />
        <col className="w-[124px] max-sm:w-[100px]" />
        <col className="w-[84px] max-sm:w-[64px]" />
      </colgroup>
      <thead>
        <tr>
          <th className="sticky top-0 z-[1]">Code</th>
          <th className="sticky top-0 z-[1] max-sm:hidden">On the keypad</th>
          <th className="sticky top-0 z-[1]">Set to</th>
          <th className="sticky top-0 z-[1] max-sm:hidden">Because</th>
          <th className="sticky top-0 z-[1]">Reads back</th>
          <th className="sticky top-0 z-[1]">
            <span className="sr-only">Verdict</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l) => {
          const head = l.group_name !== group;
          group = l.group_name;
          return [
            head && (
              <tr key={`g-${l.group}`}>
                <th colSpan={6} scope="rowgroup" className="!py-1 !text-[12.5px] !text-ink-2">
                  {l.group_name}
                </th>
              </tr>
            ),
            <SheetRow key={l.code} line={l} now={l.code === current} choose={() => choose(l.code)} />,
          ];
        })}
      </tbody>
    </table>
  );
}

/** A code that may break at its dot. */
function codeParts(code: string) {
  const at = code.indexOf(".") + 1;
  return at ? (
    <>
      {code.slice(0, at)}
      <wbr />
      {code.slice(at)}
    </>
  ) : (
    code
  );
}

function SheetRow({ line: l, now, choose }: { line: Line; now: boolean; choose: () => void }) {
  // A setting that stands as delivered is to be entered: it takes the mark of its finding.
  const asDelivered = l.verdict === "differs" && l.explanation?.kind === "not-entered";
  const v = asDelivered ? ["●", "text-must"] : (verdicts[l.verdict] ?? ["", ""]);
  const entered = l.entered && l.verdict !== "holds" && (!l.read || l.read.at < l.entered.at);
  return (
    <tr className={now ? "bg-plum-0" : ""} onClick={choose} data-code={l.code}>
      <td className="n text-[13.5px] leading-tight font-semibold">
        {codeParts(l.code)}
        <span className="hidden font-sans text-[12.5px] font-normal max-sm:block">{l.name}</span>
      </td>
      <td className="text-[13.5px] max-sm:hidden">{l.name}</td>
      <td className="n text-[13.5px] font-semibold">{l.planned ? l.set_to : "–"}</td>
      <td className="text-[13px] leading-snug text-ink-2 max-sm:hidden">
        {l.problem || l.because || (l.missing && `not decided: ${l.missing}`)}
        {l.motion && <span className="text-warn"> ▲ could start motion</span>}
        {l.unproved && <span className="text-warn"> ▲ the row is {l.source}; no drive has shown it yet</span>}
        {l.shown_by && (
          <span className="text-ink-3">
            {" "}
            the row is {l.source}, and was seen on {l.shown_by}
          </span>
        )}
      </td>
      <td>
        <ReadBack line={l} choose={choose} />
      </td>
      <td className={`text-[13px] leading-tight font-semibold ${v[1]}`}>
        {v[0]} {l.verdict === "differs" && (l.explanation?.short ?? "not read")}
        {entered && <span className="block font-normal text-ink-2">entered, to be read back</span>}
        <span className="sr-only">{l.verdict}</span>
      </td>
    </tr>
  );
}

/** Where a reading is typed: Enter keeps it and goes to the next; = says that it agrees by eye. */
function ReadBack({ line: l, choose }: { line: Line; choose: () => void }) {
  const { view, act } = useDesk();
  const { typed, type, sent } = useTyped(view.id, `reading.${l.code}`);
  const input = useRef<HTMLInputElement>(null);
  async function send(text: string) {
    if (!text.trim()) return;
    const done = await act(() =>
      ok(api.POST("/api/drives/{id}/readings", { params: { path: { id: view.id } }, body: { id: newId(), code: l.code, text } })),
    );
    if (done) sent(text);
  }
  function next(step: 1 | -1) {
    const on = goOn(input.current!, "[data-read]", step);
    if (!on) input.current?.blur(); // the last one is kept too
    return on;
  }
  return (
    <input
      ref={input}
      data-read={l.code}
      className={`cell !h-[28px] ${l.kind === "choice" ? "!px-1.5 !font-sans !text-[13px] ![font-stretch:80%]" : "!text-[14px]"} ${(l.verdict === "differs" && l.explanation?.kind !== "not-entered") || l.verdict === "not-known" ? "!text-stop" : ""}`}
      aria-label={`${l.code} ${l.name} reads back`}
      value={typed ?? l.read?.text ?? ""}
      placeholder="–"
      autoComplete="off"
      onFocus={(e) => {
        choose();
        e.currentTarget.select();
      }}
      onChange={(e) => {
        if (e.target.value.endsWith("=")) {
          type(null);
          void send("=");
          next(1);
          return;
        }
        type(e.target.value);
      }}
      onBlur={() => typed !== null && void send(typed)}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === "ArrowDown") {
          if (typed === null && e.key === "Enter" && l.read) void send(l.read.text);
          if (next(e.shiftKey ? -1 : 1)) e.preventDefault();
        } else if (e.key === "ArrowUp") {
          e.preventDefault();
          next(-1);
        }
      }}
    />
  );
}

/** What nobody decided can be taken from what the drive holds, when it was read. */
function Take({ lines }: { lines: Line[] }) {
  const { view, setNotice, refresh } = useDesk();
  const [told, setTold] = useState("");
  const [not, setNot] = useState<string[]>([]);
  const read = lines.filter((l) => l.read).length;
  async function take() {
    try {
      const r = await ok(api.POST("/api/drives/{id}/take", { params: { path: { id: view.id } }, body: { id: newId() } }));
      setNot(r.not);
      setTold(
        r.taken.length ? `Taken as wanted: ${r.taken.join(", ")}. Look at each; undo takes them back.` : "Nothing more could be taken.",
      );
      refresh();
    } catch (e) {
      setNotice(say(e));
    }
  }
  return (
    <div className="noprint flex flex-wrap items-center gap-3 border-b border-tin-2 p-3">
      <button className="ghost" disabled={read === 0} onClick={() => void take()}>
        Take what the drive holds
      </button>
      <span className="text-[13px] text-ink-2" role="status">
        {told ||
          (read
            ? `${read} of these were read from the drive: its values are turned into engineering units and filled in where nothing is entered.`
            : "Nobody has said what is wanted here. Enter it at Span and Signal, or read the drive first.")}
      </span>
      {not.length > 0 && (
        <details className="w-full text-[13px] text-ink-2">
          <summary>{not.length} settings were not understood as something wanted; their readings are kept</summary>
          <ul className="max-h-40 overflow-y-auto">
            {not.map((n) => (
              <li key={n}>{n}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** The sheet as files. */
function Lists() {
  const { view, setNotice, refresh } = useDesk();
  const file = useRef<HTMLInputElement>(null);
  async function take(f: File | undefined) {
    if (!f) return;
    try {
      const r = await sendBytes<Schemas["CSVResult"]>(`/api/drives/${view.id}/readings.csv`, f, "text/csv");
      setNotice(r.problems.length ? `${r.read} readings taken. Not taken: ${r.problems.join("; ")}` : "");
      refresh();
    } catch (e) {
      setNotice(say(e));
    }
  }
  return (
    <span className="noprint ml-auto flex items-center gap-4">
      <button className="act" onClick={() => window.print()}>
        Print sheet
      </button>
      <a className="act" href={`/api/drives/${view.id}/sheet.csv`}>
        CSV
      </a>
      <Configuration />
      <button className="act" onClick={() => file.current?.click()}>
        Readings from a list…
      </button>
      <input
        ref={file}
        type="file"
        accept=".csv,.txt,.tsv,.dcf"
        className="hidden"
        aria-label="Readings from a list"
        onChange={(e) => void take(e.target.files?.[0])}
      />
    </span>
  );
}

function LinkFoot() {
  const { view, setNotice, refresh } = useDesk();
  const [busy, setBusy] = useState<AbortController | null>(null);
  const [told, setTold] = useState("");
  const [address, setAddress] = useState(false);
  const far = useQuery({
    queryKey: ["link", view.id],
    enabled: !!busy,
    refetchInterval: 250,
    queryFn: () => ok(api.GET("/api/drives/{id}/link", { params: { path: { id: view.id } } })),
  });
  async function read(snapshot?: string) {
    const stop = new AbortController();
    setBusy(stop);
    setTold("Reading the drive…");
    try {
      const r = await ok(
        api.POST("/api/drives/{id}/link/read", { params: { path: { id: view.id } }, body: { snapshot }, signal: stop.signal }),
      );
      setTold(r.message);
      if (r.outcome !== "read") setNotice(r.message);
    } catch (e) {
      setTold("");
      setNotice(stop.signal.aborted ? "Stopped. What was read is kept." : say(e));
    }
    setBusy(null);
    refresh();
  }
  const saved = view.state.snapshots.some((s) => s.name === "as-found");
  const where = view.drive.link?.address;
  const asks = !saved && where && !busy;
  return (
    <Foot
      keys={
        asks || address
          ? undefined
          : [
              ["next", "Enter"],
              ["agrees by eye", "="],
            ]
      }
    >
      {busy ? (
        <>
          <button className="btn" onClick={() => busy.abort()}>
            Stop reading
          </button>
          <progress
            aria-label="Reading the drive"
            className="h-2 w-32 accent-plum"
            value={far.data?.total ? far.data.done / far.data.total : 0}
          />
        </>
      ) : (
        <button className="btn" disabled={!where} onClick={() => void read()}>
          Read from drive
        </button>
      )}
      {asks && !address && (
        <button className="ghost" onClick={() => void read("as-found")}>
          Read and save as found
        </button>
      )}
      {address || !where ? (
        // The field stays while it is typed in, though the first sign gives the drive an address; a dialog that it opens is not outside of
        // it.
        <span
          className="flex w-72 items-center gap-2.5"
          onFocus={() => setAddress(true)}
          onBlur={(e) =>
            e.target instanceof HTMLInputElement &&
            e.currentTarget.contains(e.target) &&
            !e.currentTarget.contains(e.relatedTarget) &&
            setAddress(false)
          }
        >
          <Field
            path="link.address"
            label="Address of the drive"
            hideLabel
            text
            placeholder="address:port of the drive"
            className="flex-1"
          />
          {where && <Probe />}
          {where && (
            <button className="act" onClick={() => setAddress(false)}>
              done
            </button>
          )}
        </span>
      ) : (
        <span className="c min-w-0 truncate text-[13px] text-ink-2">
          <span role="status">{told}</span>
          {!told && (
            <button className="hover:underline" onClick={() => setAddress(true)}>
              drive at {where}
            </button>
          )}
        </span>
      )}
    </Foot>
  );
}
