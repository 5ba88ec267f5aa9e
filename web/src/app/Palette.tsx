import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Dialog } from "../ui/Dialog";
import { api, ok } from "./client";
import { useHere } from "./place";

export type Item = { what: string; go: () => void };

/** Find a drive by anything written on it, or do something by its name. */
export function Palette({ open, close, items }: { open: boolean; close: () => void; items: Item[] }) {
  return (
    <Dialog open={open} close={close} title="Find or do">
      <Choices close={close} items={items} />
    </Dialog>
  );
}

function Choices({ close, items }: { close: () => void; items: Item[] }) {
  const { place } = useHere();
  const navigate = useNavigate();
  const [text, setText] = useState("");
  const drives = useQuery({
    queryKey: ["yard", place.id, text, "all", 8],
    queryFn: () =>
      ok(api.GET("/api/places/{id}/yard", { params: { path: { id: place.id }, query: { q: text, filter: "all", limit: 8 } } })),
  });
  const t = text.toLowerCase();
  const all: Item[] = [
    ...items.filter((i) => i.what.toLowerCase().includes(t)),
    ...(drives.data?.rows ?? []).map((r) => ({ what: `${r.tag} ${r.machine}, ${r.where}`, go: () => void navigate(`/drives/${r.id}`) })),
    ...[{ what: "Yard", go: () => void navigate("/") }].filter((i) => i.what.toLowerCase().includes(t)),
  ];
  // A word that is no drive's and no act's may be one of the drive families'. Only once the drives are known: what a quick hand takes must
  // not move from under it.
  const look = text.trim();
  if (look && all.length === 0 && !drives.isFetching)
    all.push({ what: `Look “${look}” up in the drive families`, go: () => void navigate(`/families?q=${encodeURIComponent(look)}`) });
  return (
    <Combobox<Item>
      onChange={(i) => {
        if (!i) return;
        close();
        i.go();
      }}
    >
      <ComboboxInput
        autoFocus
        className="cell text"
        aria-label="Find or do"
        placeholder="tag, machine, serial, or what to do"
        onChange={(e) => setText(e.target.value)}
      />
      <ComboboxOptions static className="mt-2 max-h-80 overflow-y-auto bg-white">
        {all.map((i) => (
          <ComboboxOption key={i.what} value={i} className="cursor-pointer px-3 py-1.5 data-focus:bg-plum data-focus:text-white">
            {i.what}
          </ComboboxOption>
        ))}
        {all.length === 0 && <div className="px-3 py-2 text-ink-3">{drives.isFetching ? "Looking…" : "Nothing of this name."}</div>}
      </ComboboxOptions>
    </Combobox>
  );
}
