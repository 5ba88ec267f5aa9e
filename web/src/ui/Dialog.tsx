import { Dialog as Base, DialogPanel, DialogTitle } from "@headlessui/react";
import type { ReactNode } from "react";

export function Dialog({
  open,
  close,
  title,
  children,
  wide,
}: {
  open: boolean;
  close: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Base open={open} onClose={close} className="relative z-20">
      <div className="fixed inset-0 bg-ink/50" aria-hidden="true" />
      <div className="fixed inset-0 flex items-start justify-center overflow-y-auto p-6 pt-16">
        <DialogPanel className={`w-full ${wide ? "max-w-3xl" : "max-w-lg"} border border-tin-3 bg-tin-0 p-5`}>
          <DialogTitle className="mb-3 text-[18px]! font-bold! tracking-normal! text-ink! normal-case! [font-stretch:100%]!">
            {title}
          </DialogTitle>
          {children}
        </DialogPanel>
      </div>
    </Base>
  );
}
