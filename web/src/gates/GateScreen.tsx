import type { ReactNode } from "react";
import { useDesk } from "../app/drive";
import { Figure } from "../ui/Figure";
import { GateFoot } from "../ui/GateFoot";
import { Findings, ReadingColumn } from "../ui/Reading";

/** The shape that gates of checks share: work in the middle, what follows and findings beside. */
export function GateScreen({
  gate,
  title,
  about,
  figures = [],
  beside,
  children,
}: {
  gate: string;
  title: string;
  about: string;
  figures?: string[];
  beside?: ReactNode;
  children: ReactNode;
}) {
  const { view } = useDesk();
  const shown = view.state.figures.filter((f) => figures.includes(f.key));
  return (
    <div className="printfull split">
      <main className="printfull flex min-h-0 flex-col">
        <div className="printfull min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-4">
          <h1>{title}</h1>
          <p className="mb-3 max-w-[70ch] text-ink-2">{about}</p>
          {children}
        </div>
        <GateFoot
          gate={gate}
          keys={[
            ["next", "Enter"],
            ["undo", "Ctrl Z"],
          ]}
        />
      </main>
      <ReadingColumn>
        {beside}
        {shown.length > 0 && <h2>What follows</h2>}
        {shown.length > 0 && (
          <div>
            {shown.map((f) => (
              <Figure key={f.key} figure={f} />
            ))}
          </div>
        )}
        <h2>Findings</h2>
        <Findings list={view.state.findings.filter((f) => f.gate === gate)} />
      </ReadingColumn>
    </div>
  );
}
