import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, sendBytes, type Schemas } from "../app/client";
import { newId } from "../app/ids";
import { Mark } from "../ui/Mark";

/** The first screen of an empty data folder: make a place, or take one in. */
export function Welcome() {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [initials, setInitials] = useState("");
  const [kind, setKind] = useState<"" | "real" | "simulated">("");
  const [error, setError] = useState("");
  async function make() {
    if (!name.trim() || !initials.trim()) return setError("Name the place, and type your initials.");
    if (!kind) return setError("Say whether the place is real or simulated. It stays so.");
    const me = newId();
    try {
      const list = await ok(
        api.POST("/api/places", {
          body: {
            id: newId(),
            name: name.trim(),
            kind,
            zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
            people: { [me]: { initials: initials.trim(), trade: "technician" } },
          },
        }),
      );
      localStorage.setItem("tingate.person", me);
      client.setQueryData(["places"], list);
      location.assign("/");
    } catch (e) {
      setError(say(e));
    }
  }
  async function take(file: File | undefined) {
    if (!file) return;
    try {
      await sendBytes<Schemas["ImportResult"]>("/api/import", file, "application/zip");
      location.assign("/");
    } catch (e) {
      setError(say(e));
    }
  }
  return (
    <main className="mx-auto max-w-xl p-10">
      <h1 className="flex items-center gap-3">
        <Mark mark="work" size={34} /> Tin Gate
      </h1>
      <p className="my-4 text-ink-2">
        Nothing is here yet. Name the place whose drives you put into service, or take in a bundle that somebody exported.
      </p>
      <form
        className="flex flex-col gap-3 border border-tin-3 bg-tin-0 p-5"
        onSubmit={(e) => {
          e.preventDefault();
          void make();
        }}
      >
        <label>
          <span className="lbl">Place</span>
          <input className="cell text" value={name} onChange={(e) => setName(e.target.value)} autoFocus />
        </label>
        <fieldset className="flex flex-col gap-1">
          <legend className="lbl">It is, for good</legend>
          {(
            [
              ["real", "Real", "machines that people measure; nothing of the bench counts as theirs"],
              ["simulated", "Simulated", "to practise and to show: the bench is the machine, and every page says so"],
            ] as const
          ).map(([v, title, says]) => (
            <label key={v} className="flex min-h-8 items-baseline gap-2 text-[14px]">
              <input
                type="radio"
                name="kind"
                className="size-4 translate-y-0.5 accent-plum"
                checked={kind === v}
                onChange={() => setKind(v)}
              />
              <span>
                <b className="font-semibold">{title}</b>: {says}
              </span>
            </label>
          ))}
        </fieldset>
        <label>
          <span className="lbl">Your initials</span>
          <input className="cell text" value={initials} maxLength={8} onChange={(e) => setInitials(e.target.value)} />
        </label>
        <button className="btn self-start">Begin</button>
      </form>
      <label className="mt-5 block">
        <span className="lbl">Or take in a bundle</span>
        <input type="file" accept=".zip" onChange={(e) => void take(e.target.files?.[0])} />
      </label>
      {error && (
        <p role="alert" className="mt-3 text-stop">
          ✕ {error}
        </p>
      )}
    </main>
  );
}
