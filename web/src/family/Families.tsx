import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ok, say, sendBytes, type Schemas } from "../app/client";
import { Frame } from "../app/Frame";
import { ReadingColumn } from "../ui/Reading";
import { FindField, Found, Glossary, useAsked } from "./Find";

/** Every drive family that is known here, and the ways to add one. */
export function Families() {
  const families = useQuery({ queryKey: ["families"], queryFn: () => ok(api.GET("/api/families")) });
  const client = useQueryClient();
  const [told, setTold] = useState("");
  const [asked] = useAsked();
  async function take(file: File | undefined) {
    if (!file) return;
    try {
      const f = await sendBytes<Schemas["FamilyHead"]>("/api/families", file, "application/yaml");
      setTold(`${f.name} ${f.version} is known here now.`);
      await client.invalidateQueries({ queryKey: ["families"] });
    } catch (e) {
      setTold(`✕ ${say(e)}`);
    }
  }
  return (
    <Frame where={<> / drive families</>}>
      <div className="split">
        <main className="min-h-0 overflow-y-auto px-5 pt-4 pb-4">
          <h1>Drive families</h1>
          <p className="mb-3 text-ink-2">
            Each family counts the same thing its own way. What is known of it stands here: settings, keypad, recipes, terminals and faults.
          </p>
          <FindField />
          {asked.trim() && <Found />}
          {families.error && <p className="text-stop">✕ {say(families.error)}</p>}
          {(asked.trim() ? [] : (families.data ?? [])).map((f) => (
            <section
              key={f.name}
              className="grid grid-cols-[110px_minmax(0,1fr)_auto] items-start gap-4 border-b border-tin-3 bg-tin-0 px-4 py-3"
            >
              <Link className="text-[19px] font-bold text-plum hover:underline [font-stretch:90%]" to={`/families/${f.name}`}>
                {f.name}
              </Link>
              <div>
                <p>{f.about || "No description."}</p>
                <p className="mt-1 text-[13px] text-ink-2">
                  Version {f.versions.join(", ")} · {f.settings} settings · {f.types.length ? `${f.types.length} sizes` : "no sizes listed"}{" "}
                  · {f.has_link ? (f.read_only ? `read only over the link: ${f.read_only}` : "register map") : "keypad only"}
                </p>
              </div>
              <div className="flex flex-col items-start">
                <Link className="act" to={`/families/${f.name}/edit`}>
                  Change
                </Link>
                <a className="act" href={`/api/families/${f.name}/file.yaml`}>
                  File
                </a>
              </div>
            </section>
          ))}
          {!asked.trim() && <Glossary />}
        </main>
        <ReadingColumn>
          <h2>Add a family</h2>
          <p className="text-[13.5px] text-ink-2">
            From a list or a workbook of settings, a table out of the maker's manual, a register list, or a device description: columns are
            mapped, units and roles proposed, and every proposal is looked at before it is kept.
          </p>
          <Link className="btn text-center" to="/families/new">
            From a settings list
          </Link>
          <label className="mt-3 text-[13px]">
            <span className="lbl">Or from a family's file</span>
            <input type="file" accept=".yaml,.yml" className="min-h-6 w-full" onChange={(e) => void take(e.target.files?.[0])} />
            {told && <span role="status">{told}</span>}
          </label>
        </ReadingColumn>
      </div>
    </Frame>
  );
}
