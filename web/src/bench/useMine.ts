import { useEffect, useState } from "react";

/**
 * What the hand has set stands until the bench has acted on it, and what it shows then is newer: told by its tick, never by a clock. tick is the
 * bench's own as it is shown.
 */
export function useMine<T>(value: T, tick: number): [T, (v: T, done: Promise<number | null>) => void] {
  const [mine, setMine] = useState<{ v: T; from: number; until?: number } | null>(null);
  // A bench that was set up anew begins at its first tick again.
  const over = mine !== null && (tick < mine.from || (mine.until !== undefined && tick > mine.until));
  useEffect(() => {
    if (over) setMine(null);
  }, [over]);
  return [
    mine === null || over ? value : mine.v,
    (v, done) => {
      const put = { v, from: tick };
      setMine(put);
      void done.then((until) => setMine((m) => (m !== put ? m : until === null ? null : { ...put, until })));
    },
  ];
}
