import { replaceEqualDeep, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, useCallback, useContext, useEffect, useMemo, useState, type ReactNode } from "react";
import { api, inTime, ok, say, type Schemas, type View } from "./client";
import { newId } from "./ids";
import { saverFor, type Saver } from "./saver";

type Decision = Schemas["DecideRequest"]["type"];

/** What can be done to a drive. These stay the same while its view changes, so that what only acts is not drawn anew. */
export type Acts = {
  id: string;
  /** Sends an act; the answer is the drive as it then is. Returns false and shows the reason when it is refused. */
  act: (send: () => Promise<View>) => Promise<boolean>;
  decide: (type: Decision, key: string, reason?: string, seen?: string | Record<string, string>) => Promise<boolean>;
  /** Answers a check. seen is what it rested on as it stands on the screen: the server refuses an answer to another question. */
  answer: (key: string, value: string, extra?: { with?: string; reason?: string; seen?: Record<string, string> }) => Promise<boolean>;
};

export type Desk = Acts & {
  view: View;
  saver: Saver;
  undo: () => Promise<boolean>;
  refresh: () => void;
  notice: string;
  setNotice: (s: string) => void;
};

const Context = createContext<Desk | null>(null);
const ActsContext = createContext<Acts | null>(null);

export function useActs(): Acts {
  const a = useContext(ActsContext);
  if (!a) throw new Error("no drive is open");
  return a;
}

export function useDesk(): Desk {
  const d = useContext(Context);
  if (!d) throw new Error("no drive is open");
  return d;
}

/** Keeps one drive: its view from the server, what is typed but not yet acknowledged, and the acts on it. */
export function DriveDesk({ id, children, waiting }: { id: string; children: ReactNode; waiting: (error: string) => ReactNode }) {
  const client = useQueryClient();
  // An answer that was overtaken by a newer one never replaces it; what is the same in both stays the same object.
  const query = useQuery({
    queryKey: ["drive", id],
    structuralSharing: (old, now) => (old && (old as View).seq > (now as View).seq ? old : replaceEqualDeep(old, now)),
    queryFn: () => ok(api.GET("/api/drives/{id}", { params: { path: { id } } })),
  });
  const newer = useCallback((v: View) => client.setQueryData<View>(["drive", v.id], (old) => (old && old.seq > v.seq ? old : v)), [client]);
  const saver = saverFor(id, newer); // who shows its state subscribes to it: typing must not redraw the whole screen
  const [notice, setNotice] = useState("");
  useEffect(() => setNotice(""), [id]);
  const act = useCallback(
    async (send: () => Promise<View>) => {
      await saver.settled(); // it rests on what was typed before it
      try {
        const answer = send();
        answer.then(newer, () => {}); // also when it comes late
        await inTime(answer);
        setNotice("");
        return true;
      } catch (e) {
        setNotice(say(e));
        return false;
      }
    },
    [newer, saver],
  );
  const acts = useMemo<Acts>(
    () => ({
      id,
      act,
      decide: (type, key, reason, seen) =>
        act(() =>
          ok(
            api.POST("/api/drives/{id}/decisions", {
              params: { path: { id } },
              body: { id: newId(), type, key, reason, ...(typeof seen === "object" ? { basis: seen } : { seen }) },
            }),
          ),
        ),
      answer: (key, value, extra) =>
        act(() => ok(api.POST("/api/drives/{id}/answers", { params: { path: { id } }, body: { id: newId(), key, value, ...extra } }))),
    }),
    [id, act],
  );
  if (!query.data) return waiting(query.error ? say(query.error) : "");
  const desk: Desk = {
    ...acts,
    view: query.data,
    saver,
    notice,
    setNotice,
    refresh: () => void client.invalidateQueries({ queryKey: ["drive", id] }),
    undo: () => act(() => ok(api.POST("/api/drives/{id}/undo", { params: { path: { id } }, body: { id: newId() } }))),
  };
  return (
    <ActsContext.Provider value={acts}>
      <Context.Provider value={desk}>{children}</Context.Provider>
    </ActsContext.Provider>
  );
}

/** The stored text at a path of the drive. */
export function textAt(view: View, path: string): string {
  let v: unknown = view.drive;
  for (const p of path.split(".")) v = (v as Record<string, unknown> | undefined)?.[p];
  if (typeof v === "string") return v;
  if (v === true) return "true";
  if (v && typeof v === "object" && "text" in v) return (v as { text: string }).text;
  return "";
}
