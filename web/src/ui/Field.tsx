import { useId, useRef, useState, type KeyboardEvent } from "react";
import { textAt, useDesk } from "../app/drive";
import { newId } from "../app/ids";
import { usePending } from "../app/saver";

/** Moves to the next or previous field, in the order of the page; false where there is none. */
export function toNeighbour(from: HTMLElement, step: 1 | -1) {
  const all = [...document.querySelectorAll<HTMLElement>("[data-field]")].filter((e) => !(e as HTMLInputElement).disabled);
  const next = all[all.indexOf(from) + step];
  next?.focus();
  if (next instanceof HTMLInputElement) next.select();
  return !!next;
}

type Props = {
  path: string;
  label: string;
  placeholder?: string;
  text?: boolean; // words, not figures
  unit?: string;
  hideLabel?: boolean;
  className?: string;
};

/** The text of a field as it stands: being typed, waiting to be saved, refused, or stored. */
export function useText(path: string) {
  const { view, saver } = useDesk();
  return usePending(saver, path) ?? textAt(view, path);
}

/** One field of the drive file: saved as typed, Enter goes to the next, and what cannot be read is kept and marked. */
export function Field({ path, label, placeholder, text, unit, hideLabel, className = "" }: Props) {
  const { view, saver } = useDesk();
  const id = useId();
  const stored = useText(path);
  const [typed, setTyped] = useState<string | null>(null);
  const visit = useRef("");
  const value = typed ?? stored;
  const want = typed === null || typed === textAt(view, path) ? view.state.unreadable[path] : undefined;
  const worked = view.state.worked_out[path];
  const understood = view.state.shown[path];
  const differs = understood && understood !== value && !understood.startsWith(`${value} `) && saver.pending(path) === undefined;
  const key = (e: KeyboardEvent<HTMLInputElement>) => {
    if (e.key === "Enter" || e.key === "ArrowDown") {
      if (toNeighbour(e.currentTarget, e.shiftKey ? -1 : 1)) e.preventDefault();
    } else if (e.key === "ArrowUp") {
      e.preventDefault();
      toNeighbour(e.currentTarget, -1);
    }
  };
  return (
    <div className={className}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "lbl"}>
        {label}
      </label>
      <div className="relative">
        <input
          id={id}
          data-field={path}
          className={`cell ${text ? "text" : ""} ${value === "" ? "blank" : ""} ${want ? "bad" : ""}`}
          value={value}
          placeholder={worked || placeholder}
          autoComplete="off"
          spellCheck={false}
          aria-invalid={!!want}
          aria-describedby={want || differs ? `${id}-d` : undefined}
          onFocus={() => {
            visit.current = newId();
            saver.begin(path, textAt(view, path));
          }}
          onChange={(e) => {
            setTyped(e.target.value);
            saver.put(path, e.target.value, visit.current);
          }}
          onBlur={() => setTyped(null)}
          onKeyDown={key}
        />
        {unit && <span className="pointer-events-none absolute top-2 right-2 text-[12px] text-ink-3">{unit}</span>}
      </div>
      {want ? (
        <p id={`${id}-d`} className="mt-0.5 text-[12px] leading-tight text-stop">
          ✕ wanted: {want}
        </p>
      ) : worked && value === "" ? (
        <p className="c mt-0.5 text-[12px] leading-tight text-ink-3">worked out</p>
      ) : (
        differs && (
          <p id={`${id}-d`} className="n mt-0.5 text-[12px] leading-tight text-ink-3">
            = {understood}
          </p>
        )
      )}
    </div>
  );
}

/** A yes or no of the drive file. */
export function Tick({ path, label, className = "" }: { path: string; label: string; className?: string }) {
  const { view, saver } = useDesk();
  const on = useText(path) === "true";
  return (
    <label className={`flex min-h-8 items-center gap-2 text-[13.5px] ${className}`}>
      <input
        type="checkbox"
        data-field={path}
        checked={on}
        onFocus={() => saver.begin(path, textAt(view, path))}
        onChange={(e) => saver.put(path, e.target.checked ? "true" : "", newId())}
      />
      {label}
    </label>
  );
}

/** A choice out of a closed list. */
export function Choice({
  path,
  label,
  options,
  className = "",
  hideLabel,
}: {
  path: string;
  label: string;
  options: [string, string][];
  className?: string;
  hideLabel?: boolean;
}) {
  const { view, saver } = useDesk();
  const id = useId();
  const value = useText(path);
  return (
    <div className={className}>
      <label htmlFor={id} className={hideLabel ? "sr-only" : "lbl"}>
        {label}
      </label>
      <select
        id={id}
        data-field={path}
        className={`cell text ${value === "" ? "blank" : ""}`}
        value={value}
        onFocus={() => saver.begin(path, textAt(view, path))}
        onChange={(e) => saver.put(path, e.target.value, newId())}
        onKeyDown={(e) => {
          if (e.key === "Enter" && toNeighbour(e.currentTarget, e.shiftKey ? -1 : 1)) e.preventDefault();
        }}
      >
        <option value="">–</option>
        {value && !options.some(([v]) => v === value) && <option value={value}>{value}</option>}
        {options.map(([v, words]) => (
          <option key={v} value={v}>
            {words}
          </option>
        ))}
      </select>
    </div>
  );
}
