import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../app/client";
import { sharedStream } from "../app/shared";

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
    samples.current = first ? [...first.bench.samples] : [];
    return sharedStream(`/api/drives/${drive}/bench/live`, ["message"], (e) => {
      const v = JSON.parse(e.data) as BenchView;
      const l = samples.current;
      const last = l.at(-1)?.t ?? -1;
      if ((v.bench.samples.at(-1)?.t ?? Infinity) <= last) l.length = 0; // it began again
      // a stream that was joined tells some of it twice
      l.push(...(l.length ? v.bench.samples.filter((s) => s.t > last) : v.bench.samples));
      if (l.length > most) l.splice(0, l.length - most);
      setView((was) => (v.faults.length ? v : { ...v, faults: (was ?? first)?.faults ?? [] })); // told with the first frame only
    });
  }, [drive, there, address]); // eslint-disable-line react-hooks/exhaustive-deps -- what was there when it began is taken once
  return { view: view ?? first ?? null, samples, setView };
}
