import type { Schemas } from "../app/client";

const confirms: Record<string, string> = {
  once: "pressing once",
  twice: "pressing twice",
  hold: "holding",
  "dial-and-set": "dialling it, then setting it",
};
const digits: Record<string, string> = { each: "digit by digit", turn: "with the knob", step: "by steps" };
export const blinks: Record<string, string> = {
  "not-kept": "Blinking means not kept yet.",
  kept: "Blinking means kept.",
  never: "Nothing blinks: look at the value again.",
};

/** The keypad's habits, in sentences and signs. */
export function KeypadCard({ keypad: k }: { keypad: Schemas["Keypad"] }) {
  return (
    <div className="flex flex-col gap-2.5 text-[13.5px]">
      <p>
        A value is dialled {digits[k.digits] ?? "as the drive wants"} and kept by {confirms[k.confirm] ?? k.keep}{" "}
        <kbd className="kb">{k.keep}</kbd>. {blinks[k.blinking]}
        {k.lists === "changed" && " Its list opens with what differs from delivery only."}
      </p>
      {k.home.do && (
        <p>
          Home: {k.home.do} <Shows text={k.home.shows} />
        </p>
      )}
      {k.remote.do && (
        <p>
          Local and remote: {k.remote.do} <Shows text={k.remote.shows} />
          {k.stop === "ignored" && (
            <b className="block font-semibold text-warn">▲ {k.keys.stop || "Stop"} is ignored in remote: it is no emergency stop.</b>
          )}
        </p>
      )}
      {k.refuses && <p>Refuses changes {k.refuses}.</p>}
      {k.password.setting && (
        <p>
          Lock: <b className="n">{k.password.setting}</b>, delivered {k.password.delivered}. Lost: {k.password.lost}.
        </p>
      )}
      {k.refused.length > 0 && (
        <div>
          <h3 className="text-[14px]">It will not run when</h3>
          <ul>
            {k.refused.map((r) => (
              <li key={r.when} className="border-b border-dotted border-tin-3 py-1">
                {r.when} <Shows text={r.shows} />
                <span className="block text-ink-2">{r.do}</span>
              </li>
            ))}
          </ul>
        </div>
      )}
      <Signs title="Lamps" list={k.lamps} />
      <Signs title="Words" list={k.words} mono />
    </div>
  );
}

export function Shows({ text }: { text?: string }) {
  return text ? <span className="n mr-1 inline-block border border-tin-3 bg-white px-1.5 text-[12.5px]">{text}</span> : null;
}

function Signs({ title, list, mono }: { title: string; list: Schemas["Meaning"][]; mono?: boolean }) {
  if (list.length === 0) return null;
  return (
    <div>
      <h3 className="text-[14px]">{title}</h3>
      <dl>
        {list.map((m) => (
          <div key={m.sign} className="grid grid-cols-[110px_1fr] gap-2 border-b border-dotted border-tin-3 py-1">
            <dt className={mono ? "n text-[12.5px]" : "font-semibold"}>{m.sign}</dt>
            <dd className="text-ink-2">{m.means}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
