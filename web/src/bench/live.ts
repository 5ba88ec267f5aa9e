import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../app/client";

export type BenchView = Schemas["BenchView"];
export type Sample = Schemas["Sample"];

/** As many samples as the bench itself keeps. */
const most = 12_000;

/** Follows a bench while a screen shows it: the newest view, and the samples so far, which the chart reads by itself. */
export function useLive(drive: string, first: BenchView | undefined) {
  const [view, setView] = useState<BenchView | null>(null);
  const samples = useRef<Sample[]>([]);
  const there = view?.there ?? first?.there ?? false;
  const address = view?.address || first?.address; // a bench set up anew has another
  useEffect(() => {
    if (!there) return;
    samples.current = [];
    const source = new EventSource(`/api/drives/${drive}/bench/live`);
    source.onmessage = (e) => {
      const v = JSON.parse(e.data as string) as BenchView;
      const l = samples.current;
      if (v.bench.samples.length > 0 && l.length > 0 && v.bench.samples[0]!.t <= l.at(-1)!.t) l.length = 0; // it began again
      l.push(...v.bench.samples);
      if (l.length > most) l.splice(0, l.length - most);
      setView(v);
    };
    return () => source.close();
  }, [drive, there, address]);
  return { view: view ?? first ?? null, samples, setView };
}
