import { useState } from "react";
import { Link } from "react-router";
import { api, ok } from "./client";
import { useDesk } from "./drive";
import { newId } from "./ids";
import { useHere, useWhen } from "./place";
import { Dialog } from "../ui/Dialog";

const whats: [string, string][] = [
  ["jumper", "jumper"],
  ["disabled-protection", "disabled protection"],
  ["trial-value", "trial value"],
  ["opened-cover", "opened cover"],
  ["cleared-password", "cleared password"],
  ["hand-mode", "hand mode"],
  ["other", "other"],
];
const word = (w: string) => whats.find(([k]) => k === w)?.[1] ?? w.replaceAll("-", " ");

/** What must not stay in: seen on every screen of the drive, and barring Keep while it is. */
export function TemporaryBar() {
  const { view } = useDesk();
  const list = view.state.temporary;
  const [open, setOpen] = useState(false);
  return (
    <>
      {list.length > 0 && (
        <section
          aria-label="Temporary things"
          className="noprint flex items-center gap-3 border-b border-warn-bar bg-warn-0 px-5 py-1 text-[13px]"
        >
          <b className="text-warn">▲ Still in:</b>
          <span className="min-w-0 truncate">
            {list.map((t) => `${word(t.what)} at ${t.where} until ${t.until || "not said"}`).join(" · ")}
          </span>
          <button className="act ml-auto whitespace-nowrap" onClick={() => setOpen(true)}>
            Register of temporary things
          </button>
        </section>
      )}
      {view.state.tune.void && (
        <section
          aria-label="Tune void"
          className="noprint flex items-center gap-3 border-b border-warn-bar bg-warn-0 px-5 py-1 text-[13px]"
        >
          <b className="whitespace-nowrap text-warn">▲ Tune void:</b>
          <span className="min-w-0 truncate">{view.state.tune.void}</span>
          <Link className="act ml-auto whitespace-nowrap" to={`/drives/${view.id}/tune`}>
            Gate Tune
          </Link>
        </section>
      )}
      <Register open={open} close={() => setOpen(false)} />
    </>
  );
}

export function Register({ open, close }: { open: boolean; close: () => void }) {
  const { view, act, notice } = useDesk();
  const { place } = useHere();
  const when = useWhen();
  const path = { path: { id: view.id } };
  return (
    <Dialog wide open={open} close={close} title="Temporary things">
      {view.state.temporary.length === 0 && (
        <p className="mb-3 text-[13.5px]">
          Nothing is recorded. A jumper, a disabled protection, a trial value, an open cover, a cleared password, hand mode: what goes in
          for a while stands here until it is out.
        </p>
      )}
      {view.state.temporary.map((t) => (
        <div key={t.entry || t.where} className="mb-2 grid grid-cols-[1fr_auto] gap-2 border-b border-dotted border-tin-3 pb-2">
          <div className="text-[13.5px]">
            <b className="font-semibold">
              {word(t.what)} at {t.where}
            </b>
            : {t.why}. Until: {t.until || "not said"}.
            <span className="block text-[12.5px] text-ink-3">
              {t.by && place.place.people?.[t.by]?.initials} {t.at && when(t.at)}{" "}
              {!t.entry && "It follows from a check, and goes when that is answered otherwise."}
            </span>
          </div>
          {t.entry && (
            <form
              className="flex items-start gap-1"
              onSubmit={(e) => {
                e.preventDefault();
                const how = new FormData(e.currentTarget).get("how") as string;
                void act(() =>
                  ok(api.POST("/api/drives/{id}/temporary/gone", { params: path, body: { id: newId(), entry: t.entry!, how } })),
                );
              }}
            >
              <input
                name="how"
                className="cell text !w-36"
                placeholder="what was done"
                aria-label={`What was done with the ${word(t.what)} at ${t.where}`}
              />
              <button className="ghost whitespace-nowrap">Out again</button>
            </form>
          )}
        </div>
      ))}
      <form
        className="grid grid-cols-4 gap-2 border-t border-tin-3 pt-3"
        onSubmit={(e) => {
          e.preventDefault();
          const form = e.currentTarget;
          const f = new FormData(form);
          const get = (k: string) => f.get(k) as string;
          void act(() =>
            ok(
              api.POST("/api/drives/{id}/temporary", {
                params: path,
                body: { id: newId(), thing: { what: get("what"), where: get("where"), why: get("why"), until: get("until") } },
              }),
            ),
          ).then((done) => done && form.reset());
        }}
      >
        <label>
          <span className="lbl">What goes in</span>
          <select name="what" className="cell text">
            {whats.map(([k, w]) => (
              <option key={k} value={k}>
                {w}
              </option>
            ))}
          </select>
        </label>
        {[
          ["where", "Where"],
          ["why", "Why"],
          ["until", "Until when"],
        ].map(([k, label]) => (
          <label key={k}>
            <span className="lbl">{label}</span>
            <input name={k} className="cell text" />
          </label>
        ))}
        {notice && (
          <p role="alert" className="col-span-4 text-[13.5px] text-stop">
            ✕ {notice}
          </p>
        )}
        <button className="btn col-span-4 justify-self-start">Record it</button>
      </form>
    </Dialog>
  );
}
