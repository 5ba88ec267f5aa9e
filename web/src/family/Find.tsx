import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { api, ok, say, type Schemas } from "../app/client";
import { useHere } from "../app/place";

type Hit = Schemas["Hit"];
const kinds: Record<Hit["kind"], string> = {
  term: "word",
  setting: "setting",
  fault: "fault",
  sign: "shows",
  recipe: "how to",
  terminal: "terminal",
};
const tabOf: Record<Hit["kind"], string> = {
  term: "",
  setting: "Settings",
  fault: "Faults",
  sign: "Recipes",
  recipe: "Recipes",
  terminal: "Terminals",
};

/** What stands in the search field is part of the address, so that a look-up can be gone back to. */
export function useAsked(): [string, (q: string) => void] {
  const [query, setQuery] = useSearchParams();
  return [query.get("q") ?? "", (q) => setQuery(q ? { q } : {}, { replace: true })];
}

export function FindField() {
  const [q, setQ] = useAsked();
  return (
    <label className="mb-3 block max-w-[560px]">
      <span className="lbl">Find in all families</span>
      <input
        role="searchbox"
        className="cell text"
        placeholder="a code, a word, a fault, what a lamp means, how do I set …"
        maxLength={200}
        value={q}
        onChange={(e) => setQ(e.target.value)}
      />
    </label>
  );
}

/** What was found, with the drives of this place that have it. */
export function Found() {
  const [q] = useAsked();
  const { place } = useHere();
  const found = useQuery({
    queryKey: ["find", q],
    queryFn: () => ok(api.GET("/api/find", { params: { query: { q } } })),
    placeholderData: (old) => old,
  });
  const drives = useQuery({
    queryKey: ["place-families", place.id],
    queryFn: () => ok(api.GET("/api/places/{id}/families", { params: { path: { id: place.id } } })),
  });
  if (found.error) return <p className="text-stop">✕ {say(found.error)}</p>;
  if (!found.data) return null;
  if (found.data.length === 0)
    return <p className="text-ink-2">Nothing fits. Try another word for it, or the code as the display shows it.</p>;
  const stale = found.isPlaceholderData;
  return (
    <table className={`list w-full border border-tin-3 bg-white ${stale ? "opacity-60" : ""}`} aria-busy={stale}>
      <caption className="sr-only">Found for {q}</caption>
      <tbody>
        {found.data.map((h, i) => (
          <tr key={i}>
            <td className="w-[76px] text-[12.5px] text-ink-3">{kinds[h.kind]}</td>
            <td className="w-[92px]">
              {h.family && (
                <Link
                  className="font-semibold text-plum hover:underline"
                  to={`/families/${h.family}?look=${tabOf[h.kind]}&q=${encodeURIComponent(h.code ?? "")}`}
                >
                  {h.family}
                </Link>
              )}
            </td>
            <td className="n w-[110px] text-[13.5px] font-semibold">{h.code}</td>
            <td className="text-[13.5px] leading-snug">
              <b className="font-semibold">{h.title}</b>
              {h.carries && h.carries !== h.title.toLowerCase() && <span className="text-ink-2"> · {h.carries}</span>}
              <span className="block text-[13px] text-ink-2">{h.detail}</span>
              {h.term && <TermWords term={h.term} />}
            </td>
            <td className="w-[150px] text-[13px]">{h.family && <Drives of={drives.data?.find((d) => d.family === h.family)} />}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function TermWords({ term }: { term: Schemas["Term"] }) {
  return (
    <>
      {term.others.length > 0 && <span className="block text-[13px]">Also called {term.others.join(", ")}.</span>}
      {term.not && <span className="block text-[13px] text-warn">▲ not {term.not}</span>}
    </>
  );
}

function Drives({ of }: { of?: Schemas["DrivesOf"] }) {
  if (!of) return <span className="text-ink-3">no drive here</span>;
  const few = of.some.slice(0, 3);
  return (
    <>
      {few.map((d) => (
        <Link key={d.id} className="mr-2 whitespace-nowrap text-plum hover:underline" to={`/drives/${d.id}/sheet`}>
          {d.tag}
        </Link>
      ))}
      {of.drives > few.length && <span className="whitespace-nowrap text-ink-2">and {of.drives - few.length} more</span>}
    </>
  );
}

/** The words of the trade. */
export function Glossary() {
  const terms = useQuery({ queryKey: ["glossary"], queryFn: () => ok(api.GET("/api/glossary")), staleTime: Infinity });
  return (
    <details className="mt-4">
      <summary className="act cursor-pointer">Words, and other words for them</summary>
      <dl className="mt-2">
        {terms.data?.map((t) => (
          <div key={t.word} className="border-b border-tin-2 py-1.5 text-[13.5px]">
            <dt className="inline font-semibold">{t.word}</dt> <dd className="inline text-ink-2">{t.about}</dd>
            <TermWords term={t} />
          </div>
        ))}
      </dl>
    </details>
  );
}
