import type { ReactNode } from "react";
import type { Answered } from "../app/client";

const kinds: Record<string, { bar: string; tag: string; word: string; sign: string }> = {
  stop: { bar: "border-stop", tag: "text-stop", word: "stops", sign: "✕" },
  look: { bar: "border-warn-bar", tag: "text-warn", word: "look again", sign: "▲" },
  do: { bar: "border-must", tag: "text-must", word: "do", sign: "●" },
  note: { bar: "border-tin-4", tag: "text-ink-3", word: "note", sign: "–" },
  kept: { bar: "border-tin-4", tag: "text-ink-3", word: "kept", sign: "⊘" },
  holds: { bar: "border-good", tag: "text-good", word: "holds", sign: "✓" },
};

export function Note({ kind, title, children }: { kind: string; title: string; children?: ReactNode }) {
  const k = kinds[kind] ?? kinds.note!;
  return (
    <section className={`border-l-[5px] bg-white py-2 pr-2.5 pl-3 ${k.bar}`}>
      <span className={`c float-right ml-2 border-[1.5px] border-current px-1.5 text-[11px] leading-[1.6] font-semibold ${k.tag}`}>
        {k.sign} {k.word}
      </span>
      <h3 className="text-[14px] leading-snug">{title}</h3>
      <div className="text-[13px] leading-[1.4] text-ink-2">{children}</div>
    </section>
  );
}

/** A finding with what to do about it. */
export function Finding({ finding, children }: { finding: Answered; children?: ReactNode }) {
  return (
    <Note kind={finding.kept ? "kept" : finding.severity} title={finding.title}>
      {finding.detail}
      {finding.reopen && <p className="mt-1">It was kept ({finding.reason}), but a value it rested on has changed.</p>}
      {finding.kept && <p className="mt-1">Kept: {finding.reason}</p>}
      {!finding.kept && finding.action && finding.severity !== "note" && <p className="mt-1 font-medium text-ink">{finding.action}.</p>}
      {children}
    </Note>
  );
}
