import type { ReactNode } from "react";

export function Foot({ children, keys }: { children: ReactNode; keys?: [string, string][] }) {
  return (
    <footer className="noprint mt-auto flex min-h-[58px] shrink-0 items-center gap-3 border-t border-tin-3 bg-tin-0 px-5 py-2">
      {children}
      <span className="c ml-auto flex shrink-0 gap-3 text-[13px] text-ink-2 max-lg:hidden">
        {keys?.map(([what, key]) => (
          <span key={what} className="whitespace-nowrap">
            {what} <kbd className="kb">{key}</kbd>
          </span>
        ))}
      </span>
    </footer>
  );
}
