import { useState } from "react";

export type Heard = { id: string; code: string; text: string; reader: string };

/**
 * What lies in this browser of one drive, typed and not yet acknowledged by the server: edits of fields on their way (saver.ts), texts that
 * stand in fields of their own until they are entered (a reading, a measurement), and what was heard at the keypad. It survives the page.
 */
export type Box = { edits?: unknown; typed?: Record<string, string>; heard?: Heard[] };

const keyOf = (drive: string) => `tingate.outbox.${drive}`;
const looked = new Set<string>();

/** A drive's box. One that cannot be read is as good as empty. */
export function boxOf(drive: string): Box {
  const raw = localStorage.getItem(keyOf(drive));
  if (raw === null) return earlier(drive);
  try {
    const box: unknown = JSON.parse(raw);
    return typeof box === "object" && box !== null ? (box as Box) : {};
  } catch {
    return {};
  }
}

/** Puts a part of a drive's box; undefined takes it out. A browser that has no room keeps what it has: the text still stands in its field. */
export function keep<K extends keyof Box>(drive: string, part: K, value: Box[K]) {
  const box = { ...boxOf(drive), [part]: value };
  try {
    if (Object.values(box).some((v) => v !== undefined)) localStorage.setItem(keyOf(drive), JSON.stringify(box));
    else localStorage.removeItem(keyOf(drive));
  } catch {
    // no room
  }
}

/** Keeps the text of a field of its own; null: it is entered, or was taken out. */
export function keepText(drive: string, name: string, text: string | null) {
  const typed = { ...boxOf(drive).typed };
  if (text === null) delete typed[name];
  else typed[name] = text;
  keep(drive, "typed", Object.keys(typed).length > 0 ? typed : undefined);
}

/** What earlier versions of the program left under keys of their own. */
function earlier(drive: string): Box {
  if (looked.has(drive)) return {};
  looked.add(drive);
  const box: Box = {};
  const typed: Record<string, string> = {};
  for (const key of Object.keys(localStorage)) {
    const value = localStorage.getItem(key)!;
    const [, kind, rest] = /^tingate\.(pending|heard|reading|measure)\.(.*)$/.exec(key) ?? [];
    if (!kind || !rest?.startsWith(drive)) continue;
    try {
      if (kind === "pending") box.edits = JSON.parse(value);
      else if (kind === "heard") box.heard = JSON.parse(value) as Heard[];
      else typed[`${kind}.${rest.slice(drive.length + 1)}`] = value;
    } catch {
      continue; // damaged: it stays where it is
    }
    localStorage.removeItem(key);
  }
  if (Object.keys(typed).length > 0) box.typed = typed;
  if (Object.keys(box).length > 0) localStorage.setItem(keyOf(drive), JSON.stringify(box));
  return box;
}

/**
 * The text of a field of its own, kept until the server has it; null: nothing is typed. sent is told what the server has taken: what was
 * typed since stays.
 */
export function useTyped(drive: string, name: string) {
  const key = `${drive}/${name}`;
  const kept = () => boxOf(drive).typed?.[name] ?? null;
  const [held, hold] = useState(() => ({ key, text: kept() }));
  const typed = held.key === key ? held.text : kept();
  const type = (text: string | null) => {
    hold({ key, text });
    keepText(drive, name, text);
  };
  const sent = (text: string) => {
    if (kept() === text) keepText(drive, name, null);
    hold((h) => (h.key === key && h.text === text ? { key, text: null } : h));
  };
  return { typed, type, sent };
}
