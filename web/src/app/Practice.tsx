import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, sendBytes, type Schemas } from "./client";
import { useDesk } from "./drive";
import { Dialog } from "../ui/Dialog";

/** The practice that this drive follows: a named set of choices. Another one shows its effect before it is taken. */
export function PracticeLine() {
  const { view, saver } = useDesk();
  const [open, setOpen] = useState(false);
  const [to, setTo] = useState("");
  const [error, setError] = useState("");
  const client = useQueryClient();
  const list = useQuery({ queryKey: ["practices"], enabled: open, queryFn: () => ok(api.GET("/api/practices")), staleTime: Infinity });
  const effect = useQuery({
    queryKey: ["practice-effect", view.id, view.seq, to],
    enabled: open && to !== "",
    queryFn: () => ok(api.GET("/api/drives/{id}/practice-effect", { params: { path: { id: view.id }, query: { to } } })),
  });
  const now = view.state.practice;
  return (
    <div className="px-3.5 py-1 text-[12.5px] text-ink-2 [font-stretch:82%]">
      <button
        className="act"
        onClick={() => {
          setTo("");
          setOpen(true);
        }}
      >
        Practice: {now.title}
      </button>
      <Dialog wide open={open} close={() => setOpen(false)} title="How this plant works">
        <label className="mb-2 flex items-center gap-2 text-[13px]">
          Add a practice from its file
          <input
            type="file"
            accept=".yaml,.yml"
            onChange={(e) => {
              const file = e.target.files?.[0];
              if (!file) return;
              setError("");
              sendBytes<Schemas["PracticeList"]>("/api/practices", file, "application/yaml").then(
                (l) => client.setQueryData(["practices"], l),
                (x) => setError(say(x)),
              );
              e.target.value = "";
            }}
          />
        </label>
        {error && <p className="mb-2 text-stop">✕ {error}</p>}
        {list.data?.practices.map((p) => (
          <section
            key={p.name}
            aria-label={p.title}
            className={`mb-2 border-l-[5px] bg-white px-3 py-2 ${p.name === now.name ? "border-plum" : "border-tin-3"}`}
          >
            <h3 className="flex items-baseline justify-between">
              {p.title}
              {p.name === now.name ? (
                <span className="c text-[13px] font-normal text-ink-3">this drive follows it</span>
              ) : (
                <button className="act" onClick={() => setTo(p.name)}>
                  see what it would change
                </button>
              )}
            </h3>
            <p className="text-[13.5px] text-ink-2">{p.about}</p>
          </section>
        ))}
        {effect.error && <p className="text-stop">✕ {say(effect.error)}</p>}
        {to && effect.data && (
          <>
            <div
              className="max-h-[42vh] overflow-y-auto border border-tin-3 bg-white"
              tabIndex={0}
              role="region"
              aria-label="What would change"
            >
              <table className="list w-full">
                <thead>
                  <tr>
                    <th>What</th>
                    <th>Now</th>
                    <th>Then</th>
                  </tr>
                </thead>
                <tbody>
                  {effect.data.map((c, i) => (
                    <tr key={i} className={c.kind === "check" ? "font-semibold" : ""}>
                      <td className="text-[13px]">{c.what}</td>
                      <td className="text-[13px]">{c.before}</td>
                      <td className="text-[13px]">
                        {c.after}
                        {c.why && <span className="block font-normal text-ink-2">{c.why}</span>}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
            <div className="mt-3 flex gap-3">
              <button
                className="btn"
                onClick={() => {
                  void saver.all([{ path: "practice", text: to }], "practice changed after its effect was shown");
                  setOpen(false);
                }}
              >
                Follow {list.data?.practices.find((p) => p.name === to)?.title} on this drive
              </button>
              <button className="ghost" onClick={() => setTo("")}>
                Stay
              </button>
            </div>
          </>
        )}
      </Dialog>
    </div>
  );
}
