import { useSyncExternalStore } from "react";
import { api, Refused, type View } from "./client";
import { newId } from "./ids";

type Typed = { text: string; edit: string; why?: string };
type Batch = { id: string; edit: string; why?: string; sets: { path: string; text: string; seen?: string }[] };
export type Conflict = { path: string; yours: string; theirs: string; by: string };

/**
 * Saves what is typed on one drive: one request in flight, then the newest text of each field. What is not yet
 * acknowledged is kept in this browser and sent again, under the same id, until it is.
 */
export class Saver {
  private waiting = new Map<string, Typed>();
  private batch: Batch | null = null;
  private known = new Map<string, string>();
  private running = false;
  private retry = 500;
  private listeners = new Set<() => void>();
  offline = false;
  /** Why nothing can be saved just now, when the server said so. */
  why = "";
  problem = "";
  conflict: Conflict | null = null;
  savedAt = 0;
  private snapshot = 0;

  constructor(private drive: string, private onView: (v: View) => void) {
    try {
      const kept = JSON.parse(localStorage.getItem(this.key) ?? "null");
      if (kept) {
        this.batch = kept.batch;
        for (const [p, t] of kept.waiting) this.waiting.set(p, t);
        void this.run();
      }
    } catch {
      localStorage.removeItem(this.key); // not ours, or damaged: nothing can be read from it
    }
    window.addEventListener("online", () => void this.run());
  }

  private get key() {
    return `tingate.pending.${this.drive}`;
  }

  /** The text not yet acknowledged for a path; undefined when the server has it. */
  pending(path: string): string | undefined {
    return this.waiting.get(path)?.text ?? this.batch?.sets.find((s) => s.path === path)?.text;
  }

  count() {
    return new Set([...this.waiting.keys(), ...(this.batch?.sets.map((s) => s.path) ?? [])]).size;
  }

  /** Says what stood in a field when a visit of it began. */
  begin(path: string, text: string) {
    if (this.pending(path) === undefined) this.known.set(path, text);
  }

  put(path: string, text: string, edit: string, why?: string) {
    if (this.conflict?.path === path) this.conflict = null;
    this.waiting.set(path, { text, edit, why });
    this.lost.delete(path);
    this.keep();
    void this.run();
  }

  /** Several fields as one edit. */
  async all(sets: { path: string; text: string }[], why?: string) {
    const edit = newId();
    for (const s of sets) this.waiting.set(s.path, { text: s.text, edit, why });
    for (const s of sets) this.known.delete(s.path);
    this.keep();
    await this.run();
  }

  private keep() {
    if (this.count() === 0) localStorage.removeItem(this.key);
    else localStorage.setItem(this.key, JSON.stringify({ batch: this.batch, waiting: [...this.waiting] }));
    this.tell();
  }

  private next(): Batch | null {
    if (this.batch) return this.batch;
    const first = this.waiting.values().next().value;
    if (!first) return null;
    const b: Batch = { id: newId(), edit: first.edit, why: first.why, sets: [] };
    for (const [path, t] of this.waiting) {
      if (t.edit !== first.edit) continue;
      b.sets.push({ path, text: t.text, seen: this.known.get(path) });
      this.waiting.delete(path);
    }
    return b;
  }

  private async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    for (;;) {
      this.batch = this.next();
      this.keep();
      const b = this.batch;
      if (!b) break;
      try {
        const { data, error, response } = await api.PATCH("/api/drives/{id}", { params: { path: { id: this.drive } }, body: b });
        if (error && response.status >= 500) throw new TypeError((error as { detail?: string }).detail ?? "The server failed.");
        if (error) throw new Refused(error as never);
        this.offline = false;
        this.problem = "";
        this.retry = 500;
        this.savedAt = Date.now();
        for (const s of b.sets) this.known.set(s.path, s.text);
        // The new view is drawn in a later turn: let go of the texts before it, and a tick flashes back to what it was.
        this.onView(data as View);
        await new Promise((drawn) => setTimeout(drawn));
        this.batch = null;
        this.keep();
      } catch (e) {
        if (e instanceof Refused) {
          this.refused(e, b);
          continue;
        }
        this.offline = true;
        // fetch itself says only that there was no answer; a server that answered says what was wrong.
        this.why = e instanceof TypeError && !/fetch|network|load failed/i.test(e.message) ? e.message : "";
        this.keep();
        setTimeout(() => void this.run(), this.retry);
        this.retry = Math.min(this.retry * 2, 8000);
        break;
      }
    }
    this.running = false;
    this.tell();
  }

  private refused(e: Refused, b: Batch) {
    this.batch = null;
    const c = e.problem.conflict;
    if (c) this.conflict = c;
    else this.problem = e.problem.errors.map((f) => `${f.field}: got ${f.got}, want ${f.want}`).join("; ") || e.message;
    for (const s of b.sets) this.lost.set(s.path, s.text);
    this.keep();
  }

  /** Texts that were refused; they stay in their fields. */
  lost = new Map<string, string>();

  /** Takes one side of a conflict. */
  settle(take: "yours" | "theirs") {
    const c = this.conflict;
    if (!c) return;
    this.conflict = null;
    this.lost.delete(c.path);
    this.known.set(c.path, c.theirs);
    if (take === "yours") this.put(c.path, c.yours, newId(), "kept after both were seen");
    else this.tell();
  }

  subscribe = (f: () => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };
  version = () => this.snapshot;
  private tell() {
    this.snapshot++;
    for (const f of this.listeners) f();
  }
}

const savers = new Map<string, Saver>();
export function saverFor(drive: string, onView: (v: View) => void): Saver {
  let s = savers.get(drive);
  if (!s) savers.set(drive, (s = new Saver(drive, onView)));
  return s;
}

/** The text at a path that the server does not have: waiting, or refused. Rerenders only when it changes. */
export function usePending(s: Saver, path: string): string | undefined {
  return useSyncExternalStore(s.subscribe, () => s.pending(path) ?? s.lost.get(path));
}

/** Rerenders whenever anything about saving changes. */
export function useSaver(s: Saver) {
  useSyncExternalStore(s.subscribe, s.version);
  return s;
}
