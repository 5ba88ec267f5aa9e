import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { of } from "../app/asked";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { boxOf, keep as keepInBox, useTyped, type Heard } from "../app/outbox";
import { useHere } from "../app/place";

type Row = Schemas["SettingRow"];

/** As found by two people: one reads the keypad aloud, one types. Big figures, and Enter only. */
export function Voice() {
  const { view, act } = useDesk();
  const { place, me } = useHere();
  const rows = useQuery({
    queryKey: ["settings", view.id, view.seq],
    queryFn: () => ok(api.GET("/api/drives/{id}/settings", { params: { path: { id: view.id } } })),
    placeholderData: of(view.id),
  });
  const key = `tingate.voice.${view.id}`;
  const [reader, setReader] = useState(localStorage.getItem("tingate.reader") ?? "");
  const [at, setAt] = useState<string | null>(localStorage.getItem(key));
  const kept = useTyped(view.id, "voice");
  const typed = kept.typed ?? "";
  const [told, setTold] = useState("");
  const queue = useQueue(view.id);
  if (rows.error) return <p className="p-3 text-stop">✕ {say(rows.error)}</p>;
  const list = rows.data ?? [];
  const i = Math.max(
    0,
    list.findIndex((r) => r.code === at),
  );
  const row = list[i];
  const heard = list.filter((r) => r.read?.how === "voice").length;
  if (!row) return <p className="p-3 text-ink-2">Reading…</p>;
  const put = (text: string) => kept.type(text || null);
  function go(to: number) {
    const next = list[Math.min(list.length - 1, Math.max(0, to))]!;
    setAt(next.code);
    localStorage.setItem(key, next.code);
    put("");
  }
  /** Goes on at once: whoever reads aloud does not wait for the line. What is not acknowledged stays here. */
  function keep(r: Row) {
    if (!typed.trim()) setTold(`${r.code} left out`);
    else {
      queue.put({ id: newId(), code: r.code, text: typed, reader });
      setTold(`${r.code} ${typed}`);
    }
    go(i + 1);
  }
  const others = Object.entries(place.place.people ?? {}).filter(([id]) => id !== me);
  return (
    <div className="p-4">
      <div className="mb-3 flex flex-wrap items-end gap-4">
        <label>
          <span className="lbl">Who reads aloud</span>
          <select
            className="cell text"
            value={reader}
            onChange={(e) => {
              setReader(e.target.value);
              localStorage.setItem("tingate.reader", e.target.value);
            }}
          >
            <option value="">choose</option>
            {others.map(([id, p]) => (
              <option key={id} value={id}>
                {p.initials} {p.name}
              </option>
            ))}
          </select>
        </label>
        <p className="pb-2 text-[13px] text-ink-2">
          {place.place.people?.[me]?.initials} types. In the order in which the keypad shows them.
        </p>
        <span className="n ml-auto pb-2 text-[15px]">
          {heard} / {list.length} heard
        </span>
      </div>
      <div
        className="mb-4 h-2 bg-tin-2"
        role="progressbar"
        aria-label="Settings heard"
        aria-valuemin={0}
        aria-valuemax={list.length}
        aria-valuenow={heard}
      >
        <div className="h-full bg-plum" style={{ width: `${list.length ? (heard / list.length) * 100 : 0}%` }} />
      </div>
      <p className="c text-[15px] text-ink-2">{row.group_name}</p>
      <p className="flex flex-wrap items-baseline gap-x-5">
        <b className="n text-[56px] leading-none font-semibold" data-testid="voice-code">
          {row.code}
        </b>
        <span className="text-[26px]">{row.name}</span>
        <span className="n text-[20px] text-ink-3">{row.short}</span>
      </p>
      <div className="mt-3 flex items-end gap-3">
        <label className="flex-1">
          <span className="sr-only">{row.code} reads</span>
          <input
            autoFocus
            className="cell !h-[86px] !px-4 !text-[52px]"
            value={typed}
            autoComplete="off"
            inputMode={row.kind === "number" ? "decimal" : "text"}
            onChange={(e) => put(e.target.value)}
            onKeyDown={(e) => {
              if (e.key === "Enter") {
                e.preventDefault();
                if (reader) keep(row);
                else setTold("Choose who reads aloud first.");
              } else if (e.key === "ArrowUp") {
                e.preventDefault();
                go(i - 1);
              }
            }}
          />
        </label>
        <span className="n pb-4 text-[34px] text-ink-3">{row.unit}</span>
      </div>
      <p className="mt-2 text-[13.5px] text-ink-2" role="status">
        {told && <b className="n mr-3">{told}</b>}
        <kbd className="kb">Enter</kbd> keeps and goes on, empty leaves out, <kbd className="kb">↑</kbd> goes back.
      </p>
      <p className="mt-2 text-[15px] text-ink-2">
        {row.options ? row.options.map((o) => o).join(" · ") : row.range} · delivered at <b className="n">{row.delivery}</b>
        {row.read && (
          <>
            {" "}
            · read before: <b className="n">{row.read.shown ?? row.read.text}</b>
          </>
        )}
        {row.read?.problem && <span className="text-stop"> ✕ {row.read.problem}</span>}
      </p>
      {queue.waiting.length > 0 && (
        <p className="mt-2 text-[13.5px] text-stop" role="alert">
          ✕ {queue.waiting.map((h) => `${h.code} ${h.text}`).join(", ")} {queue.waiting.length === 1 ? "is" : "are"} kept here and not yet
          sent. {queue.why}{" "}
          <button className="act" onClick={() => void queue.send()}>
            Send again
          </button>
        </p>
      )}
      <Recent rows={list.slice(Math.max(0, i - 4), i)} />
      <button
        className="ghost mt-4"
        disabled={heard === 0}
        onClick={() =>
          void act(() =>
            ok(
              api.POST("/api/drives/{id}/snapshots", {
                params: { path: { id: view.id } },
                body: { id: newId(), name: "as-found", label: "read aloud and typed" },
              }),
            ),
          ).then((done) => done && setTold("Saved as found."))
        }
      >
        Save as found
      </button>
    </div>
  );
}

/** Sends what was heard, one after the other, and keeps in the browser what was not acknowledged. */
function useQueue(drive: string) {
  const { act } = useDesk();
  const list = useRef<Heard[]>(boxOf(drive).heard ?? []);
  const busy = useRef(false);
  const [failed, setFailed] = useState(list.current.length > 0);
  const store = () => keepInBox(drive, "heard", list.current.length ? list.current : undefined);
  async function send() {
    if (busy.current) return;
    busy.current = true;
    let ok_ = true;
    while (ok_ && list.current.length > 0) {
      const h = list.current[0]!;
      ok_ = await act(() =>
        ok(
          api.POST("/api/drives/{id}/heard", {
            params: { path: { id: drive } },
            body: { id: h.id, code: h.code, text: h.text, read_by: h.reader },
          }),
        ),
      );
      if (ok_) list.current.shift();
      store();
    }
    busy.current = false;
    setFailed(!ok_);
  }
  return {
    waiting: failed ? list.current : [],
    why: "Each goes out with the next Enter, too.",
    send,
    put: (h: Heard) => {
      list.current.push(h);
      store();
      void send();
    },
  };
}

/** The last few, so that a slip is seen at once. */
function Recent({ rows }: { rows: Row[] }) {
  return (
    <ul className="mt-4 text-[15px]">
      {rows.map((r) => (
        <li key={r.code} className="grid grid-cols-[90px_1fr_auto] gap-3 border-b border-dotted border-tin-3 py-0.5">
          <b className="n">{r.code}</b>
          <span className="text-ink-2">{r.name}</span>
          <span className={`n font-semibold ${r.read?.problem ? "text-stop" : ""}`}>
            {r.read ? (r.read.shown ?? `✕ ${r.read.text}`) : "–"}
          </span>
        </li>
      ))}
    </ul>
  );
}
