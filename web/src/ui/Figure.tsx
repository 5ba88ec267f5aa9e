import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import type { Schemas } from "../app/client";

/** A figure with how it came about, one click away. */
export function Figure({ figure }: { figure: Schemas["Figure"] }) {
  return (
    <Disclosure as="div" className="border-b border-dotted border-tin-3">
      <DisclosureButton className="grid w-full grid-cols-[1fr_auto] items-baseline py-[3px] text-left hover:bg-white">
        <span className="text-ink-2">
          {figure.label} {figure.short && <em className="c text-[12px] text-ink-3 not-italic">{figure.short}</em>}
        </span>
        <span className="n text-[15px] font-semibold">
          {figure.value}
          <small className="ml-1 font-sans text-[12px] font-normal text-ink-3">{figure.unit}</small>
        </span>
      </DisclosureButton>
      <DisclosurePanel className="mb-1.5 bg-white px-2.5 py-1.5 text-[13px]">
        <p className="text-ink-2">= {figure.formula}</p>
        {figure.inputs.map((i) => (
          <Row key={i.label} label={i.label} value={i.value} unit={i.unit} />
        ))}
        {figure.estimate && <p className="text-ink-3">An estimate: the band in which such motors lie.</p>}
      </DisclosurePanel>
    </Disclosure>
  );
}

export function Row({ label, value, unit, note }: { label: string; value: string; unit?: string; note?: string }) {
  return (
    <div className="grid grid-cols-[1fr_auto] items-baseline border-b border-dotted border-tin-3 py-[3px]">
      <span className="text-ink-2">
        {label} {note && <em className="c text-[12px] text-ink-3 not-italic">{note}</em>}
      </span>
      <span className="n text-[15px] font-semibold">
        {value}
        {unit && <small className="ml-1 font-sans text-[12px] font-normal text-ink-3">{unit}</small>}
      </span>
    </div>
  );
}
