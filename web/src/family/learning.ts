import { useRef, useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";

export type Chart = Schemas["Chart"];
/** What is known of a drive's registers, and what they held; the newest reading stands last. */
export type Known = { chart: Chart; usual: number; done: boolean; stride: number; passes: { at: string; values: number[] }[] };
export type Line = { shared: boolean; owner: string };

/** How many readings are kept: those before a change tell what moves by itself. */
const kept = 6;

/** Requests a second, as the server sends them. */
export const pace = (line: Line) => (line.shared ? 2 : 20);

const keyOf = (drive: string) => `tingate.learn.${drive}`;

function known(drive: string): Known | null {
  try {
    const k = JSON.parse(localStorage.getItem(keyOf(drive)) ?? "null") as Known | null;
    return k && Array.isArray(k.chart.has) && Array.isArray(k.passes) ? k : null;
  } catch {
    return null;
  }
}

/** Learning at one drive: what is known stays in this browser, and goes along with each step that the server takes. */
export function useLearning(drive: string) {
  const [held, hold] = useState(() => ({ drive, known: known(drive) }));
  const [left, setLeft] = useState<number | null>(null); // requests to come; null: nothing is under way
  const [said, say_] = useState("");
  const ended = useRef<AbortController | null>(null);
  const now = held.drive === drive ? held.known : known(drive);
  const put = (k: Known | null) => {
    hold({ drive, known: k });
    try {
      if (k) localStorage.setItem(keyOf(drive), JSON.stringify(k));
      else localStorage.removeItem(keyOf(drive));
    } catch {
      // no room: it lasts as long as the page
    }
  };
  /** Takes steps until there is nothing more to ask; the last one, or null when it was ended or failed. */
  async function steps(ask: Omit<Schemas["LearnAsk"], "shared" | "owner">, line: Line, each: (s: Schemas["LearnStep"]) => void) {
    const stop = (ended.current = new AbortController());
    say_("");
    setLeft(0);
    try {
      for (let next = ask; ;) {
        const s = await ok(
          api.POST("/api/drives/{id}/link/learn", { params: { path: { id: drive } }, body: { ...next, ...line }, signal: stop.signal }),
        );
        each(s);
        setLeft(s.left);
        if (s.stopped) say_(s.stopped);
        if (s.done || s.stopped) return s.done ? s : null;
        next = { ...next, chart: s.chart, values: s.values, usual_ms: s.usual_ms };
      }
    } catch (e) {
      if (!stop.signal.aborted) say_(say(e));
      return null;
    } finally {
      setLeft(null);
    }
  }
  const search = (chart: Chart, budget: number, line: Line) =>
    steps({ chart, budget, usual_ms: now?.usual ?? 0 }, line, (s) =>
      put({ chart: s.chart, usual: s.usual_ms, done: s.done, stride: s.stride, passes: [] }),
    );
  /** Reads everything so many times; the readings so far, or null when it did not come to its end. */
  async function read(times: number, line: Line): Promise<Known | null> {
    let k = now;
    for (let i = 0; i < times && k; i++) {
      const s: Schemas["LearnStep"] | null = await steps({ chart: k.chart, read: true, budget: 1, usual_ms: k.usual }, line, () => {});
      if (!s) return null;
      k = {
        ...k,
        chart: s.chart,
        usual: s.usual_ms,
        passes: [...k.passes, { at: new Date().toISOString(), values: s.values ?? [] }].slice(-kept),
      };
      put(k);
    }
    return k;
  }
  return {
    known: now,
    left,
    said,
    say: say_,
    search,
    read,
    stop: () => ended.current?.abort(),
    forget: () => put(null),
    again: () => now && put({ ...now, passes: [] }),
  };
}
