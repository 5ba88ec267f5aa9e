import type { Schemas } from "../app/client";
import { useDesk } from "../app/drive";

type Check = Schemas["Check"];

/** The face of this family's keypad: tap what the drive shows. Words on the display, lamps under it. */
export function Face() {
  const { view, answer } = useDesk();
  const checks = view.state.gates.find((g) => g.key === "wake")?.checks ?? [];
  const words = checks.find((c) => c.key === "wake/drive/shows");
  const lamps = checks.find((c) => c.key === "wake/drive/lamps");
  if (!words && !lamps) return null;
  const tap = (c: Check, value: string) => answer(c.key, value, { seen: c.basis });
  return (
    <section aria-label="Face of the keypad">
      <h2>Keypad of {view.family.name}: tap what it shows</h2>
      <div className="mt-1 border-2 border-tin-4 bg-tin-2 p-3">
        {words && (
          <>
            <p className="n flex h-12 items-center justify-center bg-ink text-[22px] text-white" role="status">
              {words.value === "other" ? "· · ·" : words.value || "?"}
            </p>
            <div className="mt-2 grid grid-cols-2 gap-1">
              {words.options?.map((o) => (
                <button
                  key={o.value}
                  disabled={words.do !== "choose"}
                  title={o.text}
                  aria-label={`It shows ${o.value === "other" ? "something else" : o.value}`}
                  className={`n border border-tin-3 px-1 py-1.5 text-[14px] ${words.value === o.value ? "bg-ink text-white" : "bg-white hover:bg-plum-0"}`}
                  onClick={() => void tap(words, o.value)}
                >
                  {o.value === "other" ? "something else" : o.value}
                </button>
              ))}
            </div>
            <p className="mt-1 min-h-9 text-[12.5px] text-ink-2">{words.options?.find((o) => o.value === words.value)?.text}</p>
          </>
        )}
        {lamps && (
          <ul className="mt-1 border-t border-tin-3 pt-2">
            {lamps.options?.map((o) => (
              <li key={o.value}>
                <button
                  disabled={lamps.do !== "choose"}
                  className="flex w-full items-start gap-2 px-1 py-1 text-left text-[13px] enabled:hover:bg-plum-0"
                  aria-pressed={lamps.value === o.value}
                  onClick={() => void tap(lamps, o.value)}
                >
                  <span
                    aria-hidden="true"
                    className={`mt-1 h-3 w-3 shrink-0 border-2 border-ink ${lamps.value === o.value ? "bg-ink" : "bg-white"}`}
                  />
                  <span>
                    {o.value === "other" ? "something else" : o.value} <span className="text-ink-3">{o.value !== "other" && o.text}</span>
                  </span>
                </button>
              </li>
            ))}
          </ul>
        )}
      </div>
    </section>
  );
}
