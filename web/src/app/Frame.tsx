import { useEffect, useRef, useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";
import { EnergyBand } from "./Energy";
import { useDesk } from "./drive";
import { Palette, type Item } from "./Palette";
import { Identity } from "./Identity";
import { useHere } from "./place";
import { PracticeLine } from "./Practice";
import { useSaver } from "./saver";
import { Register, TemporaryBar } from "./Temporary";
import { Mark } from "../ui/Mark";

/** The ink bar, find-or-do, and whatever stands under them. */
export function Frame({ where, children, items = [] }: { where: ReactNode; children: ReactNode; items?: Item[] }) {
  const { place, places, choosePlace, me } = useHere();
  const [find, setFind] = useState(false);
  const [who, setWho] = useState(false);
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k") {
        e.preventDefault();
        setFind(true);
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
  const mine = place.place.people?.[me];
  const simulated = place.place.kind === "simulated";
  return (
    <div data-simulated={simulated || undefined} className="printfull flex h-full flex-col">
      <header className="noprint flex h-11 shrink-0 items-center gap-4 bg-ink px-4 text-tin-1">
        <Link
          to="/"
          className="flex shrink-0 items-center gap-2 whitespace-nowrap text-[15px] font-bold [font-stretch:112%]"
          aria-label="Tin Gate: Yard"
        >
          <Mark mark="work" size={24} plain /> Tin Gate
        </Link>
        <nav aria-label="Where" className="c min-w-0 truncate text-tin-3">
          {places.length > 1 ? (
            <select className="bg-ink text-tin-1" aria-label="Place" value={place.id} onChange={(e) => choosePlace(e.target.value)}>
              {places.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.place.name}
                </option>
              ))}
            </select>
          ) : (
            <Link to="/" className="hover:underline">
              {place.place.name}
            </Link>
          )}
          {where}
        </nav>
        <span className="flex-1" />
        <button className="c whitespace-nowrap text-tin-3 hover:text-white max-sm:hidden" onClick={() => setFind(true)}>
          Find or do <kbd className="n rounded-[3px] border border-tin-4 px-1.5 text-[11px]">Ctrl K</kbd>
        </button>
        <button className="c whitespace-nowrap text-tin-3 hover:text-white" onClick={() => setWho(true)}>
          {mine ? (
            <>
              <b className="font-semibold text-white">{mine.initials}</b> {mine.trade}
            </>
          ) : (
            <b className="font-semibold text-white">Who works?</b>
          )}
        </button>
      </header>
      {simulated && (
        <p className="band-simulated flex h-5 shrink-0 items-center px-4 text-[11.5px] leading-none" role="note">
          <b className="mr-2 bg-plum-0 px-1 tracking-[.08em]">SIMULATED</b>
          <span className="truncate bg-plum-0 px-1">{place.place.name} is a simulated place: nothing here is of a real machine.</span>
        </p>
      )}
      {children}
      <Palette open={find} close={() => setFind(false)} items={[...items, { what: "Choose who works", go: () => setWho(true) }]} />
      <Identity open={who || !mine} close={() => setWho(false)} forced={!mine} />
    </div>
  );
}

const places: [string, string][] = [
  ["bench", "Bench"],
  ["sheet", "Settings sheet"],
  ["history", "History"],
];

/** The frame of a drive: energy band, gate rail, work. */
export function DriveFrame({ screen, children }: { screen: string; children: ReactNode }) {
  const desk = useDesk();
  const { view, undo } = desk;
  const navigate = useNavigate();
  const [register, setRegister] = useState(false);
  const to = (s: string) => navigate(`/drives/${view.id}/${s}`);
  const rail = view.state.gates.map((g) => g.key as string);
  const rails = useRef<HTMLElement>(null);
  useEffect(() => {
    // in a narrow window the rail is a strip
    rails.current?.querySelector("[aria-current]")?.scrollIntoView({ inline: "center", block: "nearest" });
  }, [screen]);
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && !e.shiftKey && e.key.toLowerCase() === "z") {
        e.preventDefault();
        (document.activeElement as HTMLElement | null)?.blur();
        void undo();
      }
      // The gates by number or one after the other, and the sheet on 0 however many gates there are.
      const next = e.key === "ArrowDown" ? 1 : e.key === "ArrowUp" ? -1 : 0;
      const here = rail.indexOf(screen);
      const target = next !== 0 ? rail[here < 0 ? 0 : here + next] : e.key === "0" ? "sheet" : rail[Number(e.key) - 1];
      if (e.altKey && target) {
        e.preventDefault();
        to(target);
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  });
  const d = view.drive;
  const alone = !!d.stop?.alone; // a stop circuit: it has no settings, no bench, and no supplies whose state would be kept here
  const others = places.filter(([k]) => !alone || k === "history");
  const items: Item[] = [
    ...view.state.gates.map((g) => ({ what: `Gate ${g.name}`, go: () => to(g.key) })),
    ...others.map(([k, name]) => ({ what: name, go: () => to(k) })),
    { what: view.undo ? `Undo: ${view.undo}` : "Undo", go: () => void undo() },
    { what: "Temporary things: record one, or see what is in", go: () => setRegister(true) },
    { what: "Print the drive's record (PDF)", go: () => window.open(`/api/drives/${view.id}/record.pdf`) },
  ];
  return (
    <Frame
      items={items}
      where={
        <>
          {d.where && <> / {d.where}</>} /{" "}
          <b className="font-semibold text-white">{[d.tag, d.machine].filter(Boolean).join(" ") || "unnamed drive"}</b>
        </>
      }
    >
      {alone ? null : screen === "bench" ? (
        <BenchBand tag={[d.tag, d.machine].filter(Boolean).join(" ")} />
      ) : (
        <EnergyBand screen={screen} />
      )}
      <TemporaryBar />
      <Register open={register} close={() => setRegister(false)} />
      <div className="printfull grid min-h-0 flex-1 grid-cols-[212px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)] max-lg:grid-cols-1 max-lg:grid-rows-[auto_minmax(0,1fr)]">
        <nav
          aria-label="Gates"
          ref={rails}
          className="noprint flex min-h-0 flex-col overflow-y-auto border-r border-tin-3 bg-tin-0 py-2.5 max-lg:border-r-0 max-lg:border-b max-lg:py-0.5"
        >
          <div className="flex flex-col max-lg:flex-row max-lg:overflow-x-auto">
            <RailLabel>Gates</RailLabel>
            {view.state.gates.map((g) => (
              <RailLink
                key={g.key}
                to={`/drives/${view.id}/${g.key}`}
                now={screen === g.key}
                mark={g.mark}
                name={g.name}
                count={
                  g.mark === "passed"
                    ? g.waived
                      ? `passed, ${g.waived} waived`
                      : "passed"
                    : g.mark === "again"
                      ? "look again"
                      : g.mark === "barred"
                        ? "barred"
                        : `${g.done}/${g.total}`
                }
              />
            ))}
            <RailLabel>{alone ? "Record" : "Bench and record"}</RailLabel>
            {others.map(([k, name]) => (
              <RailLink
                key={k}
                to={`/drives/${view.id}/${k}`}
                now={screen === k}
                name={name}
                count={k === "sheet" ? sheetCount(view.state.lines) : ""}
              />
            ))}
          </div>
          <div className="mt-auto max-lg:flex max-lg:items-center max-lg:gap-3">
            <PracticeLine />
            <SavedLine className="px-3.5 py-2 max-lg:flex max-lg:gap-3 max-lg:py-0" />
          </div>
        </nav>
        <div className="printfull relative flex min-h-0 flex-col">
          <Alerts />
          {children}
        </div>
      </div>
    </Frame>
  );
}

/** On the bench nothing is live and nothing dead: its own pattern says so. */
function BenchBand({ tag }: { tag: string }) {
  return (
    <section
      aria-label="Energy"
      className="noprint band-bench flex h-[30px] shrink-0 items-center gap-3.5 overflow-hidden border-b border-tin-3 px-4 font-semibold [font-stretch:88%]"
    >
      <span className="bg-ink px-2.5 py-0.5 tracking-[.06em] whitespace-nowrap text-white [font-stretch:100%]">BENCH</span>
      <span className="truncate bg-plum-0 px-1">
        Nothing here is wired to a machine. A simulated drive, motor and load built from the own figures of {tag || "this drive"}.
      </span>
    </section>
  );
}

/** What could not be done, and a conflict with somebody else's change. */
function Alerts() {
  const desk = useDesk();
  const { notice, setNotice } = desk;
  const saver = useSaver(desk.saver);
  return (
    <>
      {(notice || saver.problem) && (
        <div role="alert" className="noprint flex items-start gap-3 border-b border-stop bg-stop-0 px-5 py-2 text-[13.5px]">
          <b className="text-stop">✕</b>
          <span className="flex-1">{notice || saver.problem}</span>
          <button
            className="act"
            onClick={() => {
              setNotice("");
              saver.problem = "";
              desk.refresh();
            }}
          >
            Close
          </button>
        </div>
      )}
      {saver.aside.length > 0 && (
        <section aria-label="What stands aside" className="noprint border-b border-stop bg-stop-0 px-5 py-2 text-[13.5px]">
          <b className="text-stop">✕</b> {saver.aside.length === 1 ? "One entry was" : `${saver.aside.length} entries were`} not taken, and{" "}
          {saver.aside.length === 1 ? "stands" : "stand"} aside here; the rest is saved.
          <ul>
            {saver.aside.map((a) => (
              <li key={a.id} className="flex flex-wrap items-baseline gap-x-3">
                <span className="flex-1">
                  <b className="n">{a.text || "blank"}</b> for {a.name || "a field"}: {a.reason}
                </span>
                <button className="act" onClick={() => saver.again(a.id)}>
                  Send again
                </button>
                <button className="act" onClick={() => (saver.drop(a.id), desk.refresh())}>
                  Drop
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {saver.conflict && (
        <div role="alert" className="noprint flex flex-wrap items-center gap-3 border-b border-warn-bar bg-warn-0 px-5 py-2 text-[13.5px]">
          <span className="flex-1">
            ▲ {saver.conflict.by || "Somebody"} changed this field to <b className="n">{saver.conflict.theirs || "blank"}</b> while you
            typed <b className="n">{saver.conflict.yours || "nothing"}</b>. Both are kept until you choose.
          </span>
          <button className="ghost" onClick={() => saver.settle("yours")}>
            Keep mine
          </button>
          <button
            className="ghost"
            onClick={() => {
              saver.settle("theirs");
              desk.refresh();
            }}
          >
            Take theirs
          </button>
        </div>
      )}
    </>
  );
}

function sheetCount(lines: { verdict: string }[]) {
  const asked = lines.filter((l) => l.verdict !== "not-planned" && l.verdict !== "cannot");
  return asked.length ? `${asked.filter((l) => l.verdict === "holds").length}/${asked.length}` : "";
}

function RailLabel({ children }: { children: ReactNode }) {
  return <div className="c px-3.5 py-1 text-[11px] tracking-[.09em] text-ink-3 uppercase max-lg:hidden">{children}</div>;
}

function RailLink({ to, now, mark, name, count }: { to: string; now: boolean; mark?: string; name: string; count: string }) {
  return (
    <Link
      to={to}
      aria-current={now ? "page" : undefined}
      className={`grid h-[36px] shrink-0 grid-cols-[38px_1fr_auto] items-center pr-3 max-lg:gap-x-1.5 ${now ? "bg-plum text-white" : "hover:bg-tin-1"}`}
    >
      <span className="pl-[11px]">
        {mark ? (
          <Mark mark={mark} plain={now} />
        ) : (
          <span aria-hidden="true" className="inline-block w-[26px] text-center">
            ▤
          </span>
        )}
      </span>
      <span className="font-semibold [font-stretch:95%]">{name}</span>
      <span className={`n text-[11.5px] font-medium ${now ? "text-plum-0" : "text-ink-3"}`}>{count}</span>
    </Link>
  );
}

/** Says whether everything typed is saved, and offers to undo one's own last edit. */
function SavedLine({ className }: { className: string }) {
  const { saver: quiet, view, undo } = useDesk();
  const saver = useSaver(quiet);
  const n = saver.count();
  return (
    <div className={`c text-[12.5px] text-ink-2 ${className}`}>
      <div role="status">
        {saver.offline ? (
          <b className="font-semibold text-stop">
            {saver.why || "No connection"}: {n} {n === 1 ? "entry is" : "entries are"} kept here and sent later.
          </b>
        ) : n > 0 ? (
          "Saving…"
        ) : (
          "Saved as typed."
        )}
      </div>
      {view.undo && (
        <button className="act" onClick={() => void undo()}>
          Undo {view.undo} <kbd className="kb">Ctrl Z</kbd>
        </button>
      )}
    </div>
  );
}
