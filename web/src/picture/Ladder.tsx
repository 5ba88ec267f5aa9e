import { memo } from "react";
import type { Schemas } from "../app/client";

type Rung = Schemas["Rung"];
type Element = Schemas["Element"];
type Timing = Schemas["Timing"];

export type Live = { closed: Set<string>; lit: (terminal: string) => boolean; shows: Record<string, string> };

/** What is closed and what has a voltage, from a play of the circuit. */
export function liveOf(t: Timing, wires: Schemas["Wire"][]): Live {
  const lit = new Set(t.lit);
  const ends = new Set(wires.filter((w) => lit.has(w.id)).flatMap((w) => [w.from, w.to]));
  return { closed: new Set(t.closed), lit: (terminal) => ends.has(terminal), shows: t.shows };
}

const many = 8; // devices in a row from which they stand closer together

type Drawn = {
  rungs: Rung[];
  live?: Live;
  words: Record<string, string>;
  work?: (part: string) => void;
  own: string;
};

/**
 * A stop circuit as lines from the plus to the minus, with what is closed and what has a voltage just now. Channels of one device stand
 * over one another.
 */
export const Ladder = memo(function Ladder({ rungs, live, words, work, own }: Drawn) {
  return (
    <div
      className="flex flex-wrap items-start gap-x-6 gap-y-1 bg-white px-3 py-2"
      role="img"
      aria-label={`Circuit: ${rungs.map((r) => `${r.name} over ${r.before.map((e) => e.part).join(", ") || "nothing"}`).join("; ")}`}
    >
      {blocks(rungs).map((b) => (
        <Block key={b[0]!.load} rungs={b} live={live} words={words} work={work} own={own} />
      ))}
    </div>
  );
});

/** Rungs of one part over the same devices belong together. */
function blocks(rungs: Rung[]): Rung[][] {
  const out: Rung[][] = [];
  const over = (r: Rung) =>
    r.before
      .concat(r.after)
      .map((e) => e.part)
      .join(" ");
  for (const r of rungs) {
    const last = out.at(-1);
    if (last && last[0]!.part === r.part && over(r) !== "" && over(last[0]!) === over(r) && last.length < 2) last.push(r);
    else out.push([r]);
  }
  return out;
}

function Block({ rungs, live, words, work, own }: Drawn) {
  const lines = rungs.map((r) => [...r.before, ...r.after]);
  const n = lines[0]!.length;
  const col = n > many ? 58 : 86;
  const per = n > many ? 9 : 6;
  const rows = Math.max(1, Math.ceil(n / per));
  const step = 30;
  const high = rungs.length * step + 26;
  const from = rungs.map((r) => r.from.replace(/^G1:/, "") || "?");
  const lead = Math.max(...from.map((t) => t.length)) > 2 ? 60 : 30;
  const wide = lead + Math.min(n, per) * col + 112;
  const first = rungs[0]!;
  const y = (row: number, k: number) => row * high + 30 + k * step;
  return (
    <svg width={wide} height={rows * high + 8} className="shrink-0">
      {rungs.map((r, k) => {
        const list = lines[k]!;
        return (
          <g key={r.load}>
            <text x={0} y={y(0, k) + 4} fontSize={11} className="n fill-ink-2">
              {from[k]}
            </text>
            <Line on={!!live?.lit(r.from)} x1={lead - 14} x2={lead} y={y(0, k)} />
            {list.map((e, i) => (
              <Contact key={e.contact} e={e} live={live} x={lead + (i % per) * col} y={y(Math.floor(i / per), k)} col={col} work={work} />
            ))}
            {Array.from({ length: rows - 1 }, (_, row) => (
              <g key={row} className="fill-ink-3" fontSize={11}>
                <text x={lead + per * col + 4} y={y(row, k) + 4}>
                  …
                </text>
                <text x={lead - 16} y={y(row + 1, k) + 4}>
                  …
                </text>
              </g>
            ))}
            {!r.from && (
              <text x={lead} y={y(rows - 1, k) - 6} fontSize={11} className="fill-stop">
                fed from nowhere
              </text>
            )}
          </g>
        );
      })}
      {lines[0]!.map((e, i) => {
        const x = lead + (i % per) * col + col / 2;
        const row = Math.floor(i / per);
        return (
          <g key={e.contact}>
            <text x={x} y={y(row, 0) - 16} textAnchor="middle" fontSize={12} fontWeight={600} className="fill-ink">
              {e.part}
              {col > 60 && (
                <tspan fontWeight={400} className="fill-ink-2">
                  {short(e.name)}
                </tspan>
              )}
            </text>
            {rungs.length > 1 && <path d={`M${x} ${y(row, 0) + 2}V${y(row, 1) - 4}`} className="stroke-tin-4" strokeDasharray="2 3" />}
          </g>
        );
      })}
      <Load
        rungs={rungs}
        live={live}
        words={words}
        x={lead + (n === 0 ? 0 : ((n - 1) % per) + 1) * col}
        y={y(rows - 1, 0)}
        step={step}
        own={own}
        first={first}
      />
    </svg>
  );
}

const short = (name: string) => (name ? ` ${name.length > 9 ? `${name.slice(0, 8)}…` : name}` : "");

function Line({ on, x1, x2, y }: { on: boolean; x1: number; x2: number; y: number }) {
  return (
    <path
      d={`M${x1} ${y}H${x2}`}
      className={on ? "stroke-ink" : "stroke-tin-4"}
      strokeWidth={on ? 3.5 : 1.6}
      strokeDasharray={on ? undefined : "5 4"}
    />
  );
}

/** A contact: an arm between two posts, flat when closed, lifted when open. */
function Contact({
  e,
  live,
  x,
  y,
  col,
  work,
}: {
  e: Element;
  live?: Live;
  x: number;
  y: number;
  col: number;
  work?: (part: string) => void;
}) {
  const closed = live ? live.closed.has(e.contact) : e.rest;
  const a = x + col * 0.2;
  const b = x + col * 0.8;
  const on = closed && !!live?.lit(e.a);
  return (
    <g className={e.hand && work ? "cursor-pointer" : ""} onClick={e.hand && work ? () => work(e.part) : undefined}>
      <title>
        {e.part} {e.name}, {e.contact.split(":")[1]}, wire {e.wire}
      </title>
      <rect x={x} y={y - 12} width={col} height={24} className="fill-white" />
      <Line on={!!live?.lit(e.a)} x1={x} x2={a} y={y} />
      <Line on={!!live?.lit(e.b)} x1={b} x2={x + col} y={y} />
      <path d={closed ? `M${a} ${y}H${b}` : `M${a} ${y}L${b - 5} ${y - 11}`} className="stroke-ink" strokeWidth={on ? 3.5 : 2.2} />
      {e.hand && <path d={`M${(a + b) / 2 - 5} ${closed ? y - 5 : y - 12}h10`} className="stroke-plum" strokeWidth={3} />}
      <circle cx={a} cy={y} r={3.4} className="fill-white stroke-ink" strokeWidth={1.6} />
      <circle cx={b} cy={y} r={3.4} className="fill-white stroke-ink" strokeWidth={1.6} />
    </g>
  );
}

function Load({
  rungs,
  live,
  words,
  x,
  y,
  step,
  own,
  first,
}: {
  rungs: Rung[];
  live?: Live;
  words: Record<string, string>;
  x: number;
  y: number;
  step: number;
  own: string;
  first: Rung;
}) {
  const shows = live?.shows[first.part];
  const high = (rungs.length - 1) * step + 30;
  const told = first.load.endsWith(".reset") && rungs.length === 1; // an input of a part that is shown elsewhere
  const text = shows === undefined || told ? "" : first.part === own && words[shows] ? words[shows] : shows.replaceAll("-", " ");
  const on = told ? !!live?.lit(first.at) : shows === "on" || shows === "running" || shows === "ready" || shows === "released";
  return (
    <g>
      {rungs.map((r, k) => (
        <Line key={r.load} on={!!live?.lit(r.at)} x1={x} x2={x + 10} y={y + k * step} />
      ))}
      <rect
        x={x + 10}
        y={y - 15}
        width={98}
        height={high}
        className={on ? "fill-good-0 stroke-ink" : "fill-tin-0 stroke-ink"}
        strokeWidth={1.6}
      />
      <text x={x + 16} y={y - 2} fontSize={11.5} fontWeight={700} className="fill-ink">
        {first.name.length > 14 ? `${first.name.slice(0, 13)}…` : first.name}
      </text>
      <text x={x + 16} y={y + 11} fontSize={11} className="fill-ink-2">
        {rungs.map((r) => r.load.split(".")[1]).join(", ")}
        {text && ` · ${text.length > 10 ? `${text.slice(0, 9)}…` : text}`}
      </text>
      {rungs.length > 1 && (
        <text x={x + 16} y={y + 26} fontSize={12} fontWeight={600} className="fill-ink">
          {text}
        </text>
      )}
      <title>{`${first.name}: ${text}`}</title>
    </g>
  );
}
