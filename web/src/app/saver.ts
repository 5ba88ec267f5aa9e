import { useLayoutEffect, useRef, useState, useSyncExternalStore } from "react";
import { api, Refused, type View } from "./client";
import { newId, person } from "./ids";
import { boxOf, keep } from "./outbox";

type Typed = { text: string; edit: string; why?: string; by: string; at: string; name?: string };
type SetOf = { path: string; text: string; seen?: string; name?: string };
type Batch = { id: string; edit: string; why?: string; by: string; typed: string; sets: SetOf[] };
export type Conflict = { path: string; yours: string; theirs: string; by: string };
/** What could not be sent, and why: it stands aside until a person sends it again or drops it. */
export type Aside = {
  id: string;
  path: string;
  name?: string;
  text: string;
  by: string;
  at: string;
  edit: string;
  why?: string;
  reason: string;
};

/** A field as its screen names it, while it is on it. */
function named(path: string): string | undefined {
  const box = document.querySelector(`[data-field="${CSS.escape(path)}"]`);
  return (
    (box?.id ? document.querySelector(`label[for="${CSS.escape(box.id)}"]`)?.textContent : box?.closest("label")?.textContent) ?? undefined
  );
}

/** What lies in the outbox of edits. */
type Kept = { batch: Batch | null; ready?: Batch[]; waiting: [path: string, Typed][]; aside?: Aside[] };

const isKept = (v: unknown): v is Kept => typeof v === "object" && v !== null && Array.isArray((v as Kept).waiting);

/** How often a server that fails over an entry is asked before the entry stands aside. One that cannot be reached is waited for. */
const tries = 3;

/** How long an answer is waited for, ms: a network that swallows a request says nothing. It is sent again under the same id. */
const patience = 20_000;

/**
 * Saves what is typed on one drive: one request in flight, then the newest text of each field. What is not yet acknowledged is kept in this
 * browser, with who typed it and when, and sent again under the same id until it is. An entry that the server cannot take stands aside, and
 * the rest goes on.
 */
export class Saver {
  private waiting = new Map<string, Typed>();
  private batch: Batch | null = null;
  private ready: Batch[] = []; // parts of one that failed whole
  private unseen = new Map<string, string>(); // stored by the server, in no view that was drawn yet
  private known = new Map<string, string>();
  private running = false;
  private timer = 0;
  private retry = 500;
  private failed = 0; // times that the server failed over the batch in hand
  private listeners = new Set<() => void>();
  offline = false;
  /** Why nothing can be saved just now, when the server said so. */
  why = "";
  problem = "";
  conflict: Conflict | null = null;
  aside: Aside[] = [];
  savedAt = 0;
  private snapshot = 0;

  constructor(
    private drive: string,
    private onView: (v: View) => void,
  ) {
    const kept = boxOf(drive).edits;
    if (isKept(kept)) {
      const now = { by: person(), typed: new Date().toISOString() };
      this.batch = kept.batch ? { ...now, ...kept.batch } : null;
      this.ready = kept.ready ?? [];
      this.aside = kept.aside ?? [];
      for (const [p, t] of kept.waiting) this.waiting.set(p, { ...t, by: t.by ?? now.by, at: t.at ?? now.typed });
      void this.run();
    }
    window.addEventListener("online", () => void this.run());
  }

  private inHand() {
    return [...(this.batch ? [this.batch] : []), ...this.ready];
  }

  /** The text not yet acknowledged for a path; undefined when the server has it. */
  pending(path: string): string | undefined {
    return (
      this.waiting.get(path)?.text ??
      this.inHand()
        .flatMap((b) => b.sets)
        .find((s) => s.path === path)?.text ??
      this.unseen.get(path)
    );
  }

  /** The text of a path that stands aside. */
  setAside(path: string): string | undefined {
    return this.aside.find((a) => a.path === path)?.text;
  }

  count() {
    return new Set([...this.waiting.keys(), ...this.inHand().flatMap((b) => b.sets.map((s) => s.path))]).size;
  }

  /**
   * When everything typed so far is saved, or cannot be just now: what is asked of the server after it is asked of what stands on the
   * screen.
   */
  settled(): Promise<void> {
    const over = () => (this.count() === 0 && this.unseen.size === 0) || this.offline;
    if (over()) return Promise.resolve();
    return new Promise((done) => {
      const leave = this.subscribe(() => {
        if (!over()) return;
        leave();
        done();
      });
    });
  }

  /** Says what stood in a field when a visit of it began. */
  begin(path: string, text: string) {
    if (this.pending(path) === undefined) this.known.set(path, text);
  }

  put(path: string, text: string, edit: string, why?: string) {
    if (this.conflict?.path === path) this.conflict = null;
    this.note(path, text, edit, why);
    this.keep();
    void this.run();
  }

  /** Several fields as one edit. */
  async all(sets: { path: string; text: string }[], why?: string) {
    const edit = newId();
    for (const s of sets) {
      this.note(s.path, s.text, edit, why);
      this.known.delete(s.path);
    }
    this.keep();
    await this.run();
  }

  private note(path: string, text: string, edit: string, why?: string) {
    this.waiting.set(path, { text, edit, why, by: person(), at: new Date().toISOString(), name: named(path) });
    this.aside = this.aside.filter((a) => a.path !== path); // typed anew
  }

  private keep() {
    const nothing = this.count() === 0 && this.aside.length === 0;
    const kept: Kept = { batch: this.batch, ready: this.ready, waiting: [...this.waiting], aside: this.aside };
    keep(this.drive, "edits", nothing ? undefined : kept);
    this.tell();
  }

  /** The next batch: what one person typed in one visit. */
  private next(): Batch | null {
    if (this.batch) return this.batch;
    const part = this.ready.shift();
    if (part) return part;
    const first = this.waiting.values().next().value;
    if (!first) return null;
    const b: Batch = { id: newId(), edit: first.edit, why: first.why, by: first.by, typed: first.at, sets: [] };
    for (const [path, t] of this.waiting) {
      if (t.edit !== first.edit || t.by !== first.by) continue;
      b.sets.push({ path, text: t.text, seen: this.known.get(path), name: t.name });
      this.waiting.delete(path);
    }
    return b;
  }

  private async run(): Promise<void> {
    if (this.running) return;
    this.running = true;
    clearTimeout(this.timer);
    for (;;) {
      this.batch = this.next();
      this.keep();
      const b = this.batch;
      if (!b) break;
      if (!(await this.send(b))) break;
    }
    if (!this.batch) await this.look();
    this.running = false;
    this.tell();
    if (!this.batch && this.waiting.size > 0) void this.run(); // typed while the last answer was drawn
  }

  /** The view of what was stored with more on its way, when that did not come to an answer of its own. */
  private async look() {
    if (this.unseen.size === 0) return;
    try {
      const { data } = await api.GET("/api/drives/{id}", { params: { path: { id: this.drive } }, signal: AbortSignal.timeout(patience) });
      if (data) await this.draw(data);
    } catch {
      // no answer: the event that tells of the change fetches it
    }
    this.unseen.clear();
  }

  /** The new view is drawn in a later turn: let go of the texts before it, and a tick flashes back to what it was. */
  private async draw(v: View) {
    this.onView(v);
    await new Promise((drawn) => setTimeout(drawn));
    this.unseen.clear();
  }

  /** Sends a batch; false when it is to be tried again later. */
  private async send(b: Batch): Promise<boolean> {
    try {
      const body = {
        id: b.id,
        edit: b.edit,
        why: b.why,
        sets: b.sets.map(({ path, text, seen }) => ({ path, text, seen })),
        typed: b.typed,
      };
      const { data, error, response } = await api.PATCH("/api/drives/{id}", {
        // A person types faster than a plan is ridden: the last answer tells of all.
        params: { path: { id: this.drive }, query: { more: this.waiting.size + this.ready.length > 0 || undefined } },
        body,
        headers: { "X-Tingate-Person": b.by },
        signal: AbortSignal.timeout(patience),
      });
      if (error) {
        const e = new Refused(error);
        return response.status >= 500 ? this.failedOver(b, e, response.status) : this.refused(e, b);
      }
      this.offline = false;
      this.problem = "";
      this.retry = 500;
      this.failed = 0;
      this.savedAt = Date.now();
      for (const s of b.sets) this.known.set(s.path, s.text);
      if (data) await this.draw(data);
      else for (const s of b.sets) this.unseen.set(s.path, s.text);
      this.batch = null;
      this.keep();
      return true;
    } catch {
      return this.later(""); // fetch itself says only that there was no answer
    }
  }

  private later(why: string): false {
    this.offline = true;
    this.why = why;
    this.keep();
    this.timer = window.setTimeout(() => void this.run(), this.retry);
    this.retry = Math.min(this.retry * 2, 8000);
    return false;
  }

  /** The server failed. A full disk is waited for; what it fails over again and again is sent part by part, and then stands aside. */
  private failedOver(b: Batch, e: Refused, status: number): boolean {
    this.failed++;
    if (status === 503 || status === 507 || this.failed < tries) return this.later(e.message);
    this.failed = 0;
    this.retry = 500;
    this.offline = false;
    this.batch = null;
    if (b.sets.length > 1) this.ready.push(...b.sets.map((s) => ({ ...b, id: newId(), sets: [s] })));
    else this.putAside(b, b.sets, e.message);
    this.keep();
    return true;
  }

  /** The server says no: to one field, or to all of them. What is refused stands aside, the rest of its batch is sent. */
  private refused(e: Refused, b: Batch): boolean {
    this.batch = null;
    this.failed = 0;
    this.offline = false;
    const c = e.problem.conflict;
    const named = new Set(e.problem.errors.map((f) => f.field));
    const bad = c ? b.sets.filter((s) => s.path === c.path) : b.sets.filter((s) => named.has(s.path));
    const rest = bad.length ? b.sets.filter((s) => !bad.includes(s)) : [];
    if (rest.length) this.ready.push({ ...b, id: newId(), sets: rest });
    if (c) {
      this.conflict = c;
      for (const s of bad) this.lost.set(s.path, s.text);
    } else {
      const reason = e.problem.errors.map((f) => `got ${f.got || "nothing"}, want ${f.want}`).join("; ") || e.message;
      this.putAside(b, bad.length ? bad : b.sets, reason);
    }
    this.keep();
    return true;
  }

  private putAside(b: Batch, sets: SetOf[], reason: string) {
    for (const s of sets) {
      this.aside = this.aside.filter((a) => a.path !== s.path);
      // What was typed since has taken its place.
      if (!this.waiting.has(s.path))
        this.aside.push({ id: newId(), path: s.path, name: s.name, text: s.text, by: b.by, at: b.typed, edit: b.edit, why: b.why, reason });
    }
  }

  /** Sends what stands aside once more, as who typed it. */
  again(id: string) {
    const a = this.aside.find((x) => x.id === id);
    if (!a) return;
    this.aside = this.aside.filter((x) => x.id !== id);
    this.ready.push({ id: newId(), edit: a.edit, why: a.why, by: a.by, typed: a.at, sets: [{ path: a.path, text: a.text, name: a.name }] });
    this.keep();
    void this.run();
  }

  /** Lets what stands aside go: the field shows again what the server has. */
  drop(id: string) {
    this.aside = this.aside.filter((x) => x.id !== id);
    this.keep();
  }

  /** Texts that are in conflict; they stay in their fields. */
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

/** Whether edits of a drive are on their way. */
export function typing(drive: string): boolean {
  const s = savers.get(drive);
  return s !== undefined && !s.offline && s.count() > 0;
}

export function saverFor(drive: string, onView: (v: View) => void): Saver {
  let s = savers.get(drive);
  if (!s) savers.set(drive, (s = new Saver(drive, onView)));
  return s;
}

/** The text at a path that the server does not have: waiting, in conflict, or aside. Rerenders only when it changes. */
export function usePending(s: Saver, path: string): string | undefined {
  return useSyncExternalStore(s.subscribe, () => s.pending(path) ?? s.lost.get(path) ?? s.setAside(path));
}

/** Asks once what is typed is saved, by the newest f: the view is then the one that f speaks of. */
export function useOnceSaved(s: Saver, f: () => void): [waiting: boolean, ask: () => void] {
  const newest = useRef(f);
  useLayoutEffect(() => {
    newest.current = f;
  });
  const [waiting, setWaiting] = useState(false);
  const ask = () => {
    setWaiting(true);
    void s.settled().then(() => {
      setWaiting(false);
      newest.current();
    });
  };
  return [waiting, ask];
}

/** Rerenders whenever anything about saving changes. */
export function useSaver(s: Saver) {
  useSyncExternalStore(s.subscribe, s.version);
  return s;
}
