import { memo, useState, type KeyboardEvent } from "react";
import { api, ok, sendBytes, type Schemas, type View } from "../app/client";
import { useActs, useDesk } from "../app/drive";
import { goOn } from "../app/enter";
import { newId } from "../app/ids";
import { useTyped } from "../app/outbox";
import { useHere, useWhen } from "../app/place";
import { Instruments, useWith } from "../app/Instruments";
import { LockOn } from "../app/Locks";
import { Reason } from "./Reason";

type Check = Schemas["Check"];

const signs: Record<string, string> = { holds: "✓", "look-again": "▲", stops: "✕", "not-done": "○", waived: "⊘" };
const colours: Record<string, string> = {
  holds: "text-good",
  "look-again": "text-warn",
  stops: "text-stop",
  "not-done": "text-ink-3",
  waived: "text-ink-3",
};

/** A gate's checks under their headings, each answered where it stands: by a word, a choice, a reading, a photo, a lock. */
export function CheckList({ gate, skip = [] }: { gate: string; skip?: string[] }) {
  const { view } = useDesk();
  const g = view.state.gates.find((x) => x.key === gate);
  if (!g) return null;
  const checks = g.checks.filter((c) => !skip.some((p) => c.key.startsWith(p)));
  const groups = [...new Set(checks.map((c) => c.group ?? "Answered"))];
  const needs = [...new Set(g.checks.map((c) => c.role ?? "").filter(Boolean))];
  return (
    <>
      {needs.length > 0 && <Instruments needs={needs} />}
      {groups.map((name) => (
        <section key={name} className="longlist mb-3.5 border border-tin-3 bg-tin-0">
          <h3 className="border-b border-tin-2 px-3.5 py-1.5 text-[14px]">{name}</h3>
          <ul>
            {checks
              .filter((c) => (c.group ?? "Answered") === name)
              .map((c) => (
                <Row key={c.key} check={c} />
              ))}
          </ul>
        </section>
      ))}
    </>
  );
}

/** Drawn anew only when its check has changed. */
const Row = memo(function Row({ check: c }: { check: Check }) {
  const { id, act, decide } = useActs();
  const { place } = useHere();
  const when = useWhen();
  const open = c.verdict === "not-done" || c.verdict === "look-again";
  const who = c.by ? (place.place.people?.[c.by]?.initials ?? "") : "";
  return (
    <li className="border-b border-tin-2 px-3.5 py-1.5 last:border-b-0" data-check={c.key}>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <span className={`${colours[c.verdict]} w-5 text-center font-bold`} aria-hidden="true">
          {signs[c.verdict]}
        </span>
        <span className={`min-w-[min(13rem,80%)] flex-1 text-[13.5px] leading-snug ${open ? "font-semibold" : ""}`}>
          {c.title}
          <span className="sr-only">: {c.verdict.replaceAll("-", " ")}</span>
          {c.work !== "either" && <span className="c ml-2 text-[12px] font-normal text-ink-3">{c.work} work</span>}
        </span>
        <span className="ml-auto flex flex-wrap items-center justify-end gap-x-3 gap-y-1">
          {open && !c.must && (
            <Reason
              ask="waive…"
              label={`Reason to waive: ${c.title}`}
              does="Waive"
              placeholder="why"
              send={(reason) => decide("waive", c.key, reason, c.basis)}
            />
          )}
          <Answer check={c} />
        </span>
      </div>
      <div className="pl-7 text-[12.5px] leading-snug text-ink-2">
        <span className={c.verdict === "stops" ? "text-stop" : c.verdict === "look-again" ? "text-warn" : ""}>{c.detail}</span>{" "}
        {c.beside && <b className="font-semibold text-stop">{c.beside} </b>}
        {c.taken && c.taken.length > 0 && (
          <span className="text-ink-3">Taken by {c.taken.map((x) => place.place.people?.[x]?.initials ?? "somebody").join(", ")}. </span>
        )}
        {c.reason && `Reason: ${c.reason}. `}
        {who && (
          <span className="text-ink-3">
            {who} {c.at && when(c.at)} {c.with}{" "}
          </span>
        )}
        {c.entry && (
          <Reason
            ask="take back…"
            label={`Reason to take back: ${c.title}`}
            does="Take back"
            placeholder="why"
            send={(reason) =>
              act(() =>
                ok(api.POST("/api/drives/{id}/withdrawals", { params: { path: { id } }, body: { id: newId(), entry: c.entry!, reason } })),
              )
            }
          />
        )}
      </div>
    </li>
  );
});

/** How a check is answered. Enter goes to the next place where something is typed or pressed. */
function Answer({ check: c }: { check: Check }) {
  const { id, act, answer } = useActs();
  const { me } = useHere();
  // An instrument goes with what it reads, and with nothing else.
  const inHand = useWith(c.role ?? "");
  const send = (value: string, reason?: string) => answer(c.key, value, { with: c.role ? inHand : undefined, reason, seen: c.basis });
  if (c.options) return <Choices check={c} send={send} />;
  switch (c.do) {
    case "confirm":
      return c.taken?.includes(me) ? null : (
        <button className="ghost !px-3 !py-1" data-answer onClick={() => void send("confirmed")} aria-label={`Confirm: ${c.title}`}>
          {c.key === "dead/dangers/taken" ? "I take them" : "Confirm"}
        </button>
      );
    case "measure":
      return <Measure check={c} send={send} />;
    case "attach":
      return (
        <input
          type="file"
          data-answer
          aria-label={c.title}
          accept="image/*,.pdf"
          className="min-h-6 w-48 text-[12.5px]"
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file)
              void act(() =>
                sendBytes<View>(
                  `/api/drives/${id}/attachments?entry=${newId()}&of=${c.subject ?? "other"}&name=${encodeURIComponent(file.name)}`,
                  file,
                  "application/octet-stream",
                ),
              );
          }}
        />
      );
    case "lock":
      return <LockOn supply={c.subject ?? ""} title={c.title} />;
  }
  return c.value ? (
    <span className="n text-[14px] font-semibold">
      {c.value === "confirmed" ? "" : c.value} {c.unit}
    </span>
  ) : null;
}

function Choices({ check: c, send }: { check: Check; send: (v: string, reason?: string) => Promise<boolean> }) {
  const [asked, setAsked] = useState("");
  const why = c.options?.find((o) => o.value === asked)?.why;
  return (
    <span className={`flex flex-wrap justify-end gap-1 ${asked ? "max-w-[22rem]" : ""}`} role="group" aria-label={c.title}>
      {c.options!.map((o) => (
        <button
          key={o.value}
          data-answer
          disabled={c.do !== "choose" && c.value !== "" && c.value === o.value}
          aria-pressed={c.value === o.value}
          className={`border border-tin-3 px-2.5 py-1 text-[13px] ${c.value === o.value ? "bg-ink text-white" : "bg-white hover:bg-plum-0"}`}
          onClick={() => (o.why?.includes("reason") ? setAsked(o.value) : void send(o.value))}
        >
          {/^[A-Z]/.test(o.value) || o.value === o.text ? <b className="n font-semibold">{o.value}</b> : o.text}
        </button>
      ))}
      {asked && (
        <form
          className="grid w-[22rem] max-w-full grid-cols-[minmax(0,1fr)_auto] gap-1"
          onSubmit={(e) => {
            e.preventDefault();
            const reason = new FormData(e.currentTarget).get("reason") as string;
            void send(asked, reason).then((done) => done && setAsked(""));
          }}
        >
          <span className="col-span-full text-left text-[12.5px] leading-snug text-ink-2">{why}</span>
          <input name="reason" className="cell text !h-[30px]" aria-label={`Reason: ${c.title}`} autoFocus />
          <button className="btn !py-1">Keep</button>
        </form>
      )}
    </span>
  );
}

function Measure({ check: c, send }: { check: Check; send: (v: string) => Promise<boolean> }) {
  const { id } = useActs();
  const { typed, type, sent } = useTyped(id, `measure.${c.key}`);
  const press = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key !== "Enter" || e.shiftKey || e.ctrlKey) return;
    if (typed?.trim()) void send(typed).then((done) => done && sent(typed));
    if (goOn(e.currentTarget, "[data-answer]")) e.preventDefault();
  };
  return (
    <span className="flex items-center gap-1.5">
      <span className="c text-[12px] text-ink-3">{c.band}</span>
      <input
        data-answer
        data-measure={c.key}
        className={`cell !h-[30px] !w-24 text-right !text-[15px] ${c.verdict === "stops" || c.verdict === "look-again" ? "bad" : ""}`}
        aria-label={`${c.title}, ${c.unit}`}
        inputMode="decimal"
        autoComplete="off"
        value={typed ?? c.value ?? ""}
        onChange={(e) => type(e.target.value)}
        onFocus={(e) => e.currentTarget.select()}
        onKeyDown={press}
      />
      <span className="c w-9 text-[12px] text-ink-3">{c.unit}</span>
    </span>
  );
}
