import type { ReactNode } from "react";
import { useDesk } from "../app/drive";
import { blocks } from "./words";
import type { BenchAct, useBench } from "./useBench";

/** The frame of what is done on the bench inside a gate: in the bench's own pattern, so that nobody takes it for the machine. */
export function OnBench({
  title,
  bench,
  coupled,
  children,
}: {
  title: string;
  bench: ReturnType<typeof useBench>;
  coupled: boolean;
  children: (act: BenchAct) => ReactNode;
}) {
  const { view } = useDesk();
  const { v, act, setUp } = bench;
  const b = v?.bench;
  const block = b?.fault ? [b.fault_text || b.fault, "Clear it: cause first, then reset."] : b?.blocked ? blocks[b.blocked] : undefined;
  return (
    <section aria-label={title} className="mb-3.5 border border-tin-3 bg-tin-0">
      <h3 className="band-bench flex items-center gap-3 border-b border-tin-2 px-3.5 py-1.5 text-[14px]">
        <span className="bg-ink px-2 text-[12px] tracking-[.06em] text-white">BENCH</span> <span className="bg-plum-0 px-1">{title}</span>
      </h3>
      <div className="px-3.5 py-2.5">
        {!v ? (
          <p>{bench.error || "Reading…"}</p>
        ) : !v.there ? (
          <div className="flex flex-wrap items-center gap-3 text-[13.5px]">
            {v.missing ? (
              <span className="text-ink-2">A bench needs {v.missing} first.</span>
            ) : (
              <span className="text-ink-2">
                A simulated drive, motor and load of {view.drive.tag || "this drive"}: tried here first, it hurts nobody. What is seen here
                proves nothing of the machine.
              </span>
            )}
            {!v.missing && (
              <button className="ghost" onClick={() => void setUp({ seed: 1 }).then(() => (coupled ? null : act({ do: "couple" })))}>
                Set up the bench
              </button>
            )}
          </div>
        ) : (
          <>
            <div className="mb-2 flex flex-wrap items-center gap-3 text-[13px]">
              {!b!.line && (
                <button className="ghost !px-3 !py-1" onClick={() => act({ do: "line", on: true })}>
                  Mains on
                </button>
              )}
              <button className="ghost !px-3 !py-1" onClick={() => act({ do: "couple", on: !b!.coupled })}>
                {b!.coupled ? "Uncouple the load" : "Couple the load"}
              </button>
              {b!.blocked === "stop-first" && (
                <button className="ghost !px-3 !py-1" onClick={() => act({ do: "stop" })}>
                  Press stop
                </button>
              )}
              {b!.fault && (
                <button className="ghost !px-3 !py-1" onClick={() => act({ do: "reset" })}>
                  Reset
                </button>
              )}
              <span className="text-ink-2" role="status">
                {!b!.line
                  ? "No mains."
                  : block
                    ? `${block[0]}. ${block[1]}`
                    : `${b!.coupled ? "Coupled" : "Uncoupled"}, ${b!.phase !== "off" ? b!.phase : Math.abs(b!.speed) > 3 ? "coasting" : "standing by"}.`}
              </span>
            </div>
            {children(act)}
          </>
        )}
      </div>
    </section>
  );
}
