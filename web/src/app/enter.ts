import { useEffect } from "react";

const fields = "input:not([type=hidden]):not([type=file]), select, textarea";

/** What can take the next key: shown, not disabled, and no part of what is behind a dialog. */
function within(area: Element, what: string) {
  return [...area.querySelectorAll<HTMLElement>(what)].filter(
    (e) => !(e as HTMLInputElement).disabled && e.tabIndex >= 0 && e.checkVisibility(),
  );
}

/** Goes from one of those fields to the next of them, or the one before (step -1), and selects what stands there; false: there is none. */
export function goOn(from: HTMLElement, fields: string, step: 1 | -1 = 1): boolean {
  const all = [...document.querySelectorAll<HTMLInputElement>(fields)];
  const to = all[all.indexOf(from as HTMLInputElement) + step];
  to?.focus();
  to?.select?.();
  return !!to;
}

/**
 * Enter moves, in every form of the program: to the next field (Shift: to the one before), from the last to what is pressed next; a form's
 * last field sends it, as Ctrl+Enter does from any. A half-filled form is never sent by the Enter after its first field. Fields with an
 * Enter of their own have handled it before it comes here, or are marked data-enter="own".
 */
export function useEnterMoves() {
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      const from = e.target;
      if (e.key !== "Enter" || e.defaultPrevented || e.isComposing || e.altKey || e.metaKey) return;
      if (!(from instanceof HTMLInputElement || from instanceof HTMLSelectElement) || from.type === "file" || from.dataset.enter === "own")
        return;
      e.preventDefault();
      const form = from.closest("form");
      const sends = form?.querySelector<HTMLButtonElement>("button:not([type=button]):not(:disabled)");
      if (e.ctrlKey) return void (sends && form!.requestSubmit(sends));
      const area = form ?? from.closest('[role="dialog"]') ?? document.querySelector("main") ?? document.body;
      const list = within(area, fields);
      const next = list[list.indexOf(from) + (e.shiftKey ? -1 : 1)];
      if (next) {
        next.focus();
        if (next instanceof HTMLInputElement && next.type !== "checkbox" && next.type !== "radio") next.select();
      } else if (!e.shiftKey && sends) form!.requestSubmit(sends);
      else if (!e.shiftKey) {
        const around = within(from.closest('[role="dialog"]') ?? document.body, `${fields}, button, a[href]`);
        const after = around[around.indexOf(from) + 1];
        if (after) after.focus();
        else from.blur(); // the last of the screen: it is kept, as if it were left
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, []);
}
