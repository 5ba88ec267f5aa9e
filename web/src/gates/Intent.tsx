import type { ReactNode } from "react";
import { useDesk } from "../app/drive";
import { GateFoot } from "../ui/GateFoot";
import { Findings, ReadingColumn } from "../ui/Reading";

/** A gate at which what is wanted is entered, and what the drive is told of it follows beside. */
export function IntentGate({ gate, title, about, children }: { gate: string; title: string; about: string; children: ReactNode }) {
  const { view } = useDesk();
  const lines = view.state.lines.filter((l) => l.gate === gate);
  const list = view.state.findings.filter((f) => f.gate === gate);
  const urgent = list.some((f) => !f.kept && (f.severity === "stop" || f.severity === "look"));
  const findings = (
    <>
      <h2>Findings</h2>
      <Findings list={list} />
    </>
  );
  return (
    <div className="printfull split">
      <main className="flex min-h-0 flex-col">
        <div className="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-4">
          <h1>{title}</h1>
          <p className="mb-3 max-w-[70ch] text-ink-2">{about}</p>
          {children}
        </div>
        <GateFoot gate={gate} />
      </main>
      <ReadingColumn>
        {urgent && findings}
        <h2>What follows in {view.family.name || "the drive"}</h2>
        <div>
          {lines.map((l) => (
            <div key={l.code} className="border-b border-dotted border-tin-3 py-1">
              <div className="grid grid-cols-[1fr_auto] items-baseline gap-2">
                <span className="text-ink-2">
                  <b className="n text-[13px] font-semibold text-ink">{l.code}</b> {l.name}
                </span>
                <span className="n text-[14px] font-semibold">{l.planned ? l.set_to : "–"}</span>
              </div>
              <div className="c text-[12.5px] text-ink-3">
                {l.planned ? l.because : l.problem || (l.missing && `not decided: ${l.missing}`)}
                {l.planned && l.also && ` · ${l.also}`}
                {l.planned && l.rounded && ` · ${l.rounded}`}
              </div>
            </div>
          ))}
          {lines.length === 0 && <p className="text-[13px] text-ink-3">Choose the drive's family at gate Plate.</p>}
        </div>
        {!urgent && findings}
      </ReadingColumn>
    </div>
  );
}

export function Group({ title, children }: { title: string; children: ReactNode }) {
  return (
    <fieldset className="mb-3.5 border border-tin-3 bg-tin-0 px-3.5 pt-1 pb-3.5">
      <legend className="px-1 text-[14px] font-semibold">{title}</legend>
      <div className="grid grid-cols-4 gap-2.5 max-sm:grid-cols-2">{children}</div>
    </fieldset>
  );
}
