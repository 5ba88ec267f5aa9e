type Told = { id: string; data: string; type: string };

/**
 * One event stream for all windows of this browser: the window that holds the lock reads it and tells the others. A browser opens six
 * connections to a host and no more, and a stream keeps one for itself. A hidden window lets go, so that one in sight reads. Returns what
 * ends it.
 */
export function sharedStream(url: string, types: string[], take: (t: Told) => void): () => void {
  let stop: (() => void) | null = null;
  const visible = () => {
    stop?.();
    stop = document.hidden ? null : listen(url, types, take);
  };
  visible();
  document.addEventListener("visibilitychange", visible);
  return () => {
    document.removeEventListener("visibilitychange", visible);
    stop?.();
  };
}

function listen(url: string, types: string[], take: (t: Told) => void): () => void {
  const channel = new BroadcastChannel(`tingate:${url}`);
  channel.onmessage = (e) => take(e.data as Told);
  const ended = new AbortController();
  const read = () =>
    new Promise<void>((done) => {
      const source = new EventSource(url);
      for (const type of types)
        source.addEventListener(type, (e) => {
          const m = e as MessageEvent<string>;
          const told = { id: m.lastEventId, data: m.data, type };
          channel.postMessage(told);
          take(told);
        });
      ended.signal.addEventListener("abort", () => (source.close(), done()));
    });
  if (navigator.locks)
    void navigator.locks.request(`tingate:${url}`, { signal: ended.signal }, read).catch(() => undefined); // ended before its turn came
  else void read(); // an old browser: a stream a window
  return () => {
    ended.abort();
    channel.close();
  };
}
