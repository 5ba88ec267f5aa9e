import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ok, say, type Schemas } from "../app/client";
import { useDesk } from "../app/drive";
import { useOnceSaved } from "../app/saver";
import { LaidPicture, PenMark, type Pen } from "../picture/Laid";
import { Dialog } from "../ui/Dialog";
import { Laid } from "./Laid";

type Want = Schemas["BesideWant"];
type Settings = { code: string; text: string }[];
type Side = { family: string; control: string; pattern: string; settings: Settings };

const asPlanned: Side = { family: "", control: "", pattern: "", settings: [] };
const pens: Pen[] = ["first", "second"];

const controls: [string, string][] = [
  ["", "as planned"],
  ["volts-per-hertz", "volts per hertz"],
  ["vector", "vector without encoder"],
  ["encoder", "vector with encoder"],
];
const patterns: [string, string][] = [
  ["", "as planned"],
  ["constant", "even"],
  ["quadratic", "with the square"],
  ["automatic-boost", "automatic boost"],
];

const chosen = (s: Side): Want["a"] => ({
  family: s.family || undefined,
  control: (s.control || undefined) as Want["a"]["control"],
  pattern: (s.pattern || undefined) as Want["a"]["pattern"],
  settings: s.settings.filter((x) => x.code.trim() !== "" || x.text.trim() !== ""),
});

/** Two benches ride the same plan, by two controls, patterns, families or settings: side by side, or both motors on one shaft. */
export function BesideButton() {
  const { saver } = useDesk();
  const [open, setOpen] = useState(false);
  const [saving, ask] = useOnceSaved(saver, () => setOpen(true));
  return (
    <>
      <button className="act ml-auto text-[13px]" onClick={ask}>
        {saving ? "Saving…" : "Two side by side…"}
      </button>
      <Dialog open={open} close={() => setOpen(false)} title="Two benches, one plan" wide>
        <Beside close={() => setOpen(false)} />
      </Dialog>
    </>
  );
}

function Beside({ close }: { close: () => void }) {
  const { view } = useDesk();
  const [sides, setSides] = useState<[Side, Side]>([asPlanned, { ...asPlanned, control: "vector" }]);
  const [oneShaft, setOneShaft] = useState(false);
  const [knock, setKnock] = useState("");
  const families = useQuery({ queryKey: ["families"], queryFn: () => ok(api.GET("/api/families")) });
  const ride = useMutation({
    mutationFn: () =>
      ok(
        api.POST("/api/drives/{id}/bench/beside", {
          params: { path: { id: view.id } },
          body: {
            a: chosen(sides[0]),
            b: chosen(sides[1]),
            one_shaft: oneShaft,
            knock_pct: heavier,
          },
        }),
      ),
  });
  const heavier = knock.trim() === "" ? 0 : Number(knock.replace(",", ".").replace("%", ""));
  const change = (i: number, s: Partial<Side>) => {
    ride.reset(); // what was ridden is no longer what is asked for
    setSides(sides.map((x, k) => (k === i ? { ...x, ...s } : x)) as [Side, Side]);
  };
  const v = ride.data;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (!Number.isNaN(heavier)) ride.mutate();
      }}
    >
      <div className="grid grid-cols-2 gap-x-6 max-sm:grid-cols-1">
        {sides.map((s, i) => (
          <fieldset key={i} className="mb-2 grid grid-cols-2 content-start gap-x-3 gap-y-1.5" aria-label={i === 0 ? "First" : "Second"}>
            <legend className="mb-1 flex items-center gap-2 text-[14px] font-semibold">
              {i === 0 ? "First" : "Second"} <PenMark pen={pens[i]!} />
            </legend>
            <Pick
              label="Family"
              value={s.family}
              options={[
                ["", `${view.family.name}, as planned`],
                ...(families.data ?? []).filter((f) => f.name !== view.family.name).map((f): [string, string] => [f.name, f.name]),
              ]}
              put={(family) => change(i, { family, settings: [] })}
            />
            <Pick label="Control" value={s.control} options={controls} put={(control) => change(i, { control })} />
            <Pick label="Volts over hertz" value={s.pattern} options={patterns} put={(pattern) => change(i, { pattern })} />
            <Typed settings={s.settings} put={(settings) => change(i, { settings })} />
          </fieldset>
        ))}
      </div>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-tin-2 pt-2">
        <label className="flex items-center gap-2 text-[13.5px]">
          <input
            type="checkbox"
            checked={oneShaft}
            onChange={(e) => {
              ride.reset();
              setOneShaft(e.target.checked);
            }}
          />
          both motors on one shaft
        </label>
        <label className="flex items-center gap-2 text-[13.5px]">
          The load heavier for 2 s by, %
          <input
            className={`cell text !h-8 !w-20 !py-0 ${knock ? "" : "blank"}`}
            inputMode="decimal"
            placeholder="0"
            value={knock}
            onChange={(e) => {
              ride.reset();
              setKnock(e.target.value);
            }}
          />
        </label>
        <button className="btn !px-3 !py-1" disabled={ride.isPending}>
          {ride.isPending ? "Riding…" : "Ride both"}
        </button>
        <button type="button" className="ghost !px-3 !py-1" onClick={close}>
          Done
        </button>
      </div>
      {Number.isNaN(heavier) && <p className="mt-2 text-stop">✕ How much heavier the load is: got {knock}, want a figure, like 50.</p>}
      {ride.error && <p className="mt-2 text-stop">✕ {say(ride.error)}</p>}
      {v?.missing && <p className="mt-2 text-ink-2">This is worked out with {v.missing}.</p>}
      {v && v.of.length === 2 && (
        <div className="mt-3">
          {v.says.map((t) => (
            <p key={t} className="mb-1 text-[13.5px]">
              {t}
            </p>
          ))}
          <LaidPicture
            of={v.of.map((x, i) => ({ key: i === 0 ? "a" : "b", title: x.title, pen: pens[i]!, samples: x.does.ride.samples }))}
            lanes={["speed", "current", "torque", "link"]}
            label={`The plan ${v.of.map((x) => x.title).join(", and ")}`}
          />
          <Laid v={v} oneShaft={oneShaft} knocked={knock.trim() !== ""} />
        </div>
      )}
    </form>
  );
}

function Pick({ label, value, options, put }: { label: string; value: string; options: [string, string][]; put: (v: string) => void }) {
  return (
    <label className="lbl">
      {label}
      <select className="cell text !h-8 !py-0 !text-[13px]" value={value} onChange={(e) => put(e.target.value)}>
        {options.map(([key, text]) => (
          <option key={key} value={key}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Single settings otherwise, typed as the keypad shows them; the last row is always empty. */
function Typed({ settings, put }: { settings: Settings; put: (s: Settings) => void }) {
  const rows = [...settings, { code: "", text: "" }];
  return (
    <div className="col-span-2">
      <span className="c text-[12.5px] text-ink-3">Settings otherwise, as the keypad shows them</span>
      {rows.map((r, i) => {
        const change = (x: Partial<(typeof rows)[number]>) => {
          const next = rows.map((y, k) => (k === i ? { ...y, ...x } : y));
          put(next.filter((y) => y.code !== "" || y.text !== ""));
        };
        return (
          <div key={i} className="mb-1 flex gap-2">
            <input
              className={`cell text !h-8 !w-28 !py-0 ${r.code ? "" : "blank"}`}
              aria-label={`Setting ${i + 1}`}
              placeholder="code"
              value={r.code}
              onChange={(e) => change({ code: e.target.value })}
            />
            <input
              className={`cell text !h-8 !py-0 ${r.text ? "" : "blank"}`}
              aria-label={`Its value ${i + 1}`}
              placeholder="value"
              value={r.text}
              onChange={(e) => change({ text: e.target.value })}
            />
          </div>
        );
      })}
    </div>
  );
}
