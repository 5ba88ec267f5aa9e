import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, ok, say, type Schemas } from "../app/client";
import { Frame } from "../app/Frame";
import { ReadingColumn } from "../ui/Reading";
import { Row } from "../ui/Figure";
import { KeypadCard, Shows } from "./KeypadCard";

type Manual = Schemas["FamilyManual"];
const tabs = ["Recipes", "Settings", "Terminals", "Faults", "Sizes"] as const;
type Tab = (typeof tabs)[number];

/** What is known of a family, to be looked up: by the technician at the panel, and by the fitter at night. */
export function FamilyPage() {
  const { name = "" } = useParams();
  const [query] = useSearchParams();
  const version = query.get("version") ?? "";
  const [tab, setTab] = useState<Tab>(() => tabs.find((t) => t === query.get("look")) ?? "Recipes");
  const [text, setText] = useState(query.get("q") ?? "");
  const manual = useQuery({
    queryKey: ["family", name, version],
    queryFn: () => ok(api.GET("/api/families/{name}", { params: { path: { name }, query: { version } } })),
  });
  const m = manual.data;
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  const has = (...parts: (string | string[] | undefined)[]) => {
    const all = parts.flat().join(" ").toLowerCase();
    return words.every((w) => all.includes(w));
  };
  const panes: Record<Tab, (m: Manual) => ReactNode> = {
    Recipes: (m) => <Recipes m={m} />,
    Settings: (m) => <Settings rows={m.settings.filter((s) => has(s.code, s.name, s.short, s.group, s.options))} />,
    Terminals: (m) => <Terminals m={m} has={has} />,
    Faults: (m) => (
      <Faults rows={m.faults.filter((f) => has(f.code, f.text, f.look, f.family.replaceAll("-", " ")))} history={m.fault_history} />
    ),
    Sizes: (m) => <Sizes m={m} />,
  };
  return (
    <Frame
      where={
        <>
          {" / "}
          <Link to="/families" className="hover:underline">
            drive families
          </Link>{" "}
          / <b className="font-semibold text-white">{name}</b>
        </>
      }
    >
      {manual.error && <p className="p-5 text-stop">✕ {say(manual.error)}</p>}
      {m && (
        <div className="split">
          <main className="flex min-h-0 flex-col px-5 pt-4">
            <div className="flex flex-wrap items-baseline gap-3">
              <h1>
                {m.head.name} {m.head.version}
              </h1>
              <span className="c text-ink-2">{m.head.about}</span>
            </div>
            <div className="my-2.5 flex flex-wrap items-center gap-2">
              <div role="tablist" aria-label="What to look up" className="flex">
                {tabs.map((t) => (
                  <button
                    key={t}
                    role="tab"
                    aria-selected={tab === t}
                    className={`-mr-px border border-tin-3 px-3.5 py-[7px] [font-stretch:92%] ${tab === t ? "bg-ink text-white" : "bg-tin-0"}`}
                    onClick={() => setTab(t)}
                  >
                    {t}
                  </button>
                ))}
              </div>
              {tab !== "Recipes" && tab !== "Sizes" && (
                <input
                  className="cell text max-w-52 flex-1"
                  aria-label={`Search the ${tab.toLowerCase()}`}
                  placeholder="search"
                  value={text}
                  onChange={(e) => setText(e.target.value)}
                />
              )}
              <Link className="act ml-auto" to={`/families/${m.head.name}/edit`}>
                Change
              </Link>
            </div>
            <div
              className="min-h-0 flex-1 overflow-y-auto border border-b-0 border-tin-3 bg-white"
              tabIndex={0}
              role="region"
              aria-label={tab}
            >
              {panes[tab](m)}
            </div>
          </main>
          <ReadingColumn>
            <h2>How it counts</h2>
            <div>
              <Row
                label="Firmware"
                value={m.firmware_range.from ? `${m.firmware_range.from} to ${m.firmware_range.to}` : m.head.firmware || "not stated"}
              />
              {Object.entries(m.counts).map(
                ([k, v]) =>
                  v && (
                    <Row
                      key={k}
                      label={k.replace("_", " ").replace(/^./, (c) => c.toUpperCase())}
                      value={v.replaceAll("-", " ").replace("shaft as ", "").replace("rpm", "r/min")}
                    />
                  ),
              )}
              <Row label="Motor's warmth at power-off" value={m.remembers.motor_warmth || "not stated"} />
            </div>
            {m.remembers.note && <p className="text-[13px] text-warn">▲ {m.remembers.note}</p>}
            <h2 className="mt-1">Keypad</h2>
            <KeypadCard keypad={m.keypad} />
          </ReadingColumn>
        </div>
      )}
    </Frame>
  );
}

function Block({ title, children, caution }: { title: string; children: ReactNode; caution?: string }) {
  return (
    <section className="border-b border-tin-2 px-4 py-3">
      <h3>{title}</h3>
      {caution && <p className="text-[13px] font-medium text-warn">▲ {caution}</p>}
      {children}
    </section>
  );
}

function Steps({ list }: { list: Schemas["Step"][] }) {
  if (list.length === 0) return <p className="text-[13px] text-ink-3">Not in the file.</p>;
  return (
    <ol className="mt-1">
      {list.map((s, i) => (
        <li key={i} className="grid grid-cols-[24px_1fr] py-0.5">
          <span className="n text-ink-3">{i + 1}</span>
          <span>
            {s.do} <Shows text={s.shows} />
          </span>
        </li>
      ))}
    </ol>
  );
}

function Recipes({ m }: { m: Manual }) {
  const r = m.recipes;
  const d = r.delivery_reset;
  return (
    <>
      <Block title="Return to delivery state" caution="Save as found first. On the keypad, never over a link.">
        <Steps list={d.steps} />
        {d.codes.length > 0 && (
          <p className="mt-1">
            Code by supply:{" "}
            {d.codes.map((c) => (
              <span key={c.code} className="mr-3 whitespace-nowrap">
                {c.line_v} V {c.line_hz} Hz <b className="n">{c.code}</b>
              </span>
            ))}
          </p>
        )}
        {d.proof && (
          <p className="mt-1">
            Done when it shows <Shows text={d.proof} />, cleared by: {d.cleared_by}.{" "}
            {d.power_cycle && "Power off and on again belongs to it."}
          </p>
        )}
        {d.wipes && (
          <p className="text-[13px] text-ink-2">
            Wipes {d.wipes}. Keeps {d.keeps || "nothing"}.
          </p>
        )}
      </Block>
      <Block title="First-start assistant">
        <p>
          {r.first_start.pages.map((p, i) => (
            <span key={i} className="mr-3 whitespace-nowrap">
              <Shows text={p.shows} /> <span className="n text-[13px]">{p.sets}</span>
            </span>
          ))}
        </p>
        {r.first_start.leaves_out.length > 0 && (
          <p className="mt-1 text-[13px] text-ink-2">
            It does not ask for <span className="n">{r.first_start.leaves_out.join(", ")}</span>: enter them by the sheet.
          </p>
        )}
        {r.first_start.disables.length > 0 && (
          <p className="text-[13px] text-warn">
            Followed, it leaves off what protects: <span className="n">{r.first_start.disables.join(", ")}</span>.
          </p>
        )}
        {r.first_start.skip.do && (
          <p className="text-[13px] text-ink-2">
            Skip: {r.first_start.skip.do} <Shows text={r.first_start.skip.shows} />
          </p>
        )}
      </Block>
      <Block title="Tune">
        {r.tunes.map((t) => (
          <div key={t.kind} className="border-b border-dotted border-tin-3 py-1.5">
            <b className="font-semibold">{t.kind.replaceAll("-", " ")}</b>: <span className="n">{t.setting}</span> to{" "}
            <span className="n">{t.value}</span>, then {t.start}
            {t.within_s > 0 && ` within ${t.within_s} s`}.{" "}
            {t.progress.map((p) => (
              <Shows key={p} text={p} />
            ))}{" "}
            Done: <Shows text={t.done} />
            {t.done_value && (
              <>
                , <span className="n">{t.setting}</span> reads <span className="n">{t.done_value}</span>
              </>
            )}
            .{t.stop_after && <b className="font-semibold text-must"> ● Press stop before it will run again.</b>}
            {t.turns && (
              <b className="block text-[13px] font-medium text-warn">▲ The shaft turns at speed: direction first, uncoupled and guarded.</b>
            )}
          </div>
        ))}
        {r.tunes.length === 0 && <p className="text-[13px] text-ink-3">Not in the file.</p>}
      </Block>
      <Block title="Reset of a fault" caution="Cause first. What clears it depends on the fault.">
        <Steps list={r.fault_reset} />
      </Block>
      <Block title="After torque off" caution="Torque off is not isolation.">
        <Steps list={r.torque_off_reset} />
      </Block>
      <Block title="Copy and restore">
        <Steps list={r.copy} />
        <Steps list={r.restore} />
      </Block>
      <Block title="What differs from delivery, on the drive itself">
        <Steps list={r.changed} />
      </Block>
    </>
  );
}

function Settings({ rows }: { rows: Schemas["ManualRow"][] }) {
  return (
    <table className="list w-full">
      <caption className="sr-only">Settings of the family</caption>
      <thead>
        <tr>
          <th>Code</th>
          <th>Setting</th>
          <th>Range or choices</th>
          <th>Delivered</th>
          <th>To know</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((s) => (
          <tr key={s.code}>
            <td className="n text-[13px] font-semibold">{s.code}</td>
            <td className="text-[13.5px]">
              {s.name}
              <span className="n block text-[12px] text-ink-3">{s.short}</span>
            </td>
            <td className="text-[13px]">{s.options.length ? s.options.join(" · ") : s.range}</td>
            <td className="n text-[13px]">{s.delivery}</td>
            <td className="text-[12.5px] leading-tight text-ink-2">
              {s.motion && <b className="block font-semibold text-warn">▲ could start motion</b>}
              {s.full && <span className="block">full access</span>}
              {s.running && <span className="block">while running too</span>}
              {s.voids.includes("tune") && <span className="block">voids a tune</span>}
              {s.moves.length > 0 && <span className="block">moves {s.moves.join(", ")}</span>}
              {s.acting}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Terminals({ m, has }: { m: Manual; has: (...p: (string | string[] | undefined)[]) => boolean }) {
  return (
    <>
      <table className="list w-full">
        <caption className="sr-only">Terminals</caption>
        <thead>
          <tr>
            <th>Terminal</th>
            <th>Kind</th>
            <th>Electrical</th>
            <th>As delivered</th>
            <th>Set at</th>
          </tr>
        </thead>
        <tbody>
          {m.terminals
            .filter((t) => has(t.name, t.kind.replaceAll("-", " "), t.electrical, t.delivery, t.setting))
            .map((t) => (
              <tr key={t.name}>
                <td className="n font-semibold">{t.name}</td>
                <td className="text-[13px]">{t.kind.replaceAll("-", " ")}</td>
                <td className="text-[13px]">
                  {t.electrical}
                  {t.common && <span className="text-ink-3"> · common {t.common}</span>}
                </td>
                <td className="text-[13px]">
                  {t.delivery}
                  {t.jumper && <span className="block text-ink-2">link: {t.jumper}</span>}
                </td>
                <td className="n text-[13px]">{t.setting}</td>
              </tr>
            ))}
        </tbody>
      </table>
      {m.switches.map((s) => (
        <Block key={s.name} title={`Switch ${s.name}`} caution={s.power_off ? "Moved with the power off and proved dead." : undefined}>
          {s.positions.map((p) => (
            <p key={p.sign}>
              <b className="n">{p.sign}</b> {p.means} {p.sign === s.delivered && <span className="text-ink-3">as delivered</span>}
            </p>
          ))}
          {s.changes.map((c) => (
            <p key={c.position + c.setting} className="text-[13px] text-ink-2">
              At {c.position}, <span className="n">{c.setting}</span> is {c.name}.
            </p>
          ))}
        </Block>
      ))}
      {m.slots.length > 0 && (
        <Block title="Slots and modules">
          {m.slots.map((s) => (
            <p key={s.name}>
              <b className="font-semibold">{s.name}</b>:{" "}
              {s.takes
                .map((t) => m.modules.find((x) => x.code === t))
                .map((x) => x && `${x.code} ${x.name}${x.gives && ` (${x.gives})`}`)
                .join("; ")}
            </p>
          ))}
        </Block>
      )}
    </>
  );
}

function Faults({ rows, history }: { rows: Schemas["Fault"][]; history: Schemas["FaultHistory"] }) {
  const clears: Record<string, string> = {
    "by-itself": "by itself",
    reset: "by a reset, after the cause",
    "power-cycle": "by power off and on, after the cause",
    none: "not: replace",
  };
  return (
    <>
      <table className="list w-full">
        <caption className="sr-only">Faults and warnings</caption>
        <thead>
          <tr>
            <th>Shows</th>
            <th>Means</th>
            <th>Look first</th>
            <th>Clears</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((f) => (
            <tr key={f.code}>
              <td className="n font-semibold whitespace-nowrap">{f.code}</td>
              <td className="text-[13.5px]">
                {f.text}
                <span className={`block text-[12.5px] ${f.severity === "fault" ? "text-stop" : "text-warn"}`}>
                  {f.severity === "fault" ? "✕" : "▲"} {f.severity}
                </span>
              </td>
              <td className="text-[13px]">{f.look}</td>
              <td className="text-[13px]">{clears[f.clears]}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {history.depth > 0 && (
        <p className="p-3 text-[13px] text-ink-2">
          The drive keeps its last {history.depth} faults, with {history.keeps.join(", ")}.
        </p>
      )}
    </>
  );
}

function Sizes({ m }: { m: Manual }) {
  return (
    <>
      {m.type_code.example && (
        <Block title={`Type code, as ${m.type_code.example}`}>
          {m.type_code.parts.map((p, i) => (
            <p key={i} className="text-[13.5px]">
              {p.literal ? (
                <span className="n">{p.literal}</span>
              ) : (
                <>
                  <b className="font-semibold">{p.name}</b>:{" "}
                  {p.signs
                    ? `${p.signs} signs`
                    : Object.entries(p.values ?? {})
                        .map(([k, v]) => `${k} ${v}`)
                        .join("; ")}
                </>
              )}
            </p>
          ))}
        </Block>
      )}
      <table className="list w-full">
        <caption className="sr-only">Sizes</caption>
        <thead>
          <tr>
            <th>Type</th>
            <th>Frame</th>
            <th>Supply</th>
            <th>kW</th>
            <th>A heavy</th>
            <th>A normal</th>
            <th>Wait, then measure</th>
          </tr>
        </thead>
        <tbody>
          {m.ratings.map((r) => (
            <tr key={r.type} className="n text-[13px]">
              <td className="font-semibold">{r.type}</td>
              <td>{r.frame}</td>
              <td>
                {r.phases} × {r.line_low_v}–{r.line_high_v} V
              </td>
              <td>{r.power_kw}</td>
              <td>{r.heavy_a}</td>
              <td>{r.normal_a || "–"}</td>
              <td>{r.wait_min} min</td>
            </tr>
          ))}
        </tbody>
      </table>
      {m.ratings.length === 0 && <p className="p-3 text-ink-2">The file lists no sizes: enter the rated current from the drive's label.</p>}
    </>
  );
}
