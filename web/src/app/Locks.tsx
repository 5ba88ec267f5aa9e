import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, type Schemas } from "./client";
import { useDesk } from "./drive";
import { newId } from "./ids";
import { useHere } from "./place";
import { Dialog } from "../ui/Dialog";

/** Sends what is done with a lock; the drive is read again after. */
function useLock() {
  const { place } = useHere();
  const { view, refresh, setNotice } = useDesk();
  const client = useQueryClient();
  return async (lock: Schemas["Lock"]) => {
    try {
      client.setQueryData(
        ["places"],
        await ok(
          api.POST("/api/places/{id}/locks", {
            params: { path: { id: place.id } },
            body: { id: newId(), lock: { ...lock, drive: view.id } },
          }),
        ),
      );
      setNotice("");
      refresh();
      return true;
    } catch (e) {
      setNotice(say(e));
      return false;
    }
  };
}

/** One person hangs their own lock. */
export function LockOn({ supply, title }: { supply: string; title: string }) {
  const { me } = useHere();
  const lock = useLock();
  const [key, setKey] = useState("");
  return (
    <form
      className="flex items-center gap-1.5"
      onSubmit={(e) => {
        e.preventDefault();
        void lock({ supply, act: "on", owner: me, key });
      }}
    >
      <input
        className="cell text !h-[30px] !w-20"
        data-answer
        placeholder="key no."
        aria-label={`Key number: ${title}`}
        value={key}
        onChange={(e) => setKey(e.target.value)}
      />
      <button className="ghost !px-3 !py-1" data-answer aria-label={`Opened and locked by me: ${title}`}>
        Opened, my lock is on
      </button>
    </form>
  );
}

/** The locks on an isolator: one's own comes off or is handed over by name; another's is never recorded off in silence. */
export function Locks({ source }: { source: Schemas["Source"] }) {
  const { place, me } = useHere();
  const lock = useLock();
  const { notice } = useDesk();
  const [ask, setAsk] = useState<{ act: "hand-over" | "removed-by-another"; owner: string } | null>(null);
  const name = (id: string) => place.place.people?.[id]?.initials ?? "somebody";
  return (
    <span className="flex flex-wrap items-center gap-2 text-[13px]">
      {source.locks.map((l) => (
        <span key={l.entry} className="inline-flex items-center gap-1.5 border border-tin-3 bg-white px-2 py-0.5">
          <b className="font-semibold">{name(l.owner)}</b> {l.key && <span className="n text-ink-3">{l.key}</span>}
          {l.owner === me ? (
            <>
              <button className="act" onClick={() => void lock({ supply: source.point, act: "off", owner: me })}>
                take off
              </button>
              <button className="act" onClick={() => setAsk({ act: "hand-over", owner: me })}>
                hand over
              </button>
            </>
          ) : (
            <button className="act" onClick={() => setAsk({ act: "removed-by-another", owner: l.owner })}>
              was removed…
            </button>
          )}
        </span>
      ))}
      {!source.locks.some((l) => l.owner === me) && source.locks.length > 0 && (
        <button className="act" onClick={() => void lock({ supply: source.point, act: "on", owner: me })}>
          add mine
        </button>
      )}
      <Dialog
        open={!!ask}
        close={() => setAsk(null)}
        title={ask?.act === "hand-over" ? `Hand my lock on ${source.name} over` : `The lock of ${name(ask?.owner ?? "")} was removed`}
      >
        <form
          className="flex flex-col gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            const f = new FormData(e.currentTarget);
            void lock({
              supply: source.point,
              act: ask!.act,
              owner: ask!.owner,
              to: (f.get("to") as string) ?? "",
              told: (f.get("told") as string) ?? "",
              reason: (f.get("reason") as string) ?? "",
            }).then((done) => done && setAsk(null));
          }}
        >
          {ask?.act === "hand-over" ? (
            <label>
              <span className="lbl">To whom, by name</span>
              <select name="to" className="cell text">
                {Object.entries(place.place.people ?? {})
                  .filter(([id]) => id !== me)
                  .map(([id, p]) => (
                    <option key={id} value={id}>
                      {p.initials} {p.name}
                    </option>
                  ))}
              </select>
            </label>
          ) : (
            <>
              <p className="text-[13.5px]">A lock is its owner's. What was proved dead under it does not hold any more.</p>
              <label>
                <span className="lbl">Why, and that the machine was looked over</span>
                <input name="reason" className="cell text" />
              </label>
              <label>
                <span className="lbl">Who was reached before, by name</span>
                <input name="told" className="cell text" />
              </label>
            </>
          )}
          {notice && (
            <p role="alert" className="text-[13.5px] text-stop">
              ✕ {notice}
            </p>
          )}
          <button className="btn self-start">Record it</button>
        </form>
      </Dialog>
    </span>
  );
}
