import type { ReactNode } from "react";
import type { Schemas } from "../app/client";

type View = Schemas["Beside"];
type One = Schemas["BesideOne"];

const seconds = (s: number | null | undefined) => (s == null ? "not within the time" : `${s.toFixed(1)} s`);

/** The figures of two rides beside each other, and the settings in which the two drives differ. */
export function Laid({ v, oneShaft, knocked }: { v: View; oneShaft: boolean; knocked: boolean }) {
  const rows: [string, (x: One) => ReactNode][] = [
    ["drive", (x) => x.drive],
    ["rise", (x) => seconds(x.does.ride.rise_s)],
    ["at most, rising", (x) => amps(x.does.ride.peak_rise_a)],
    ["at speed", (x) => `${Math.abs(x.does.ride.top).toFixed(0)} r/min, ${x.does.ride.steady_a.toFixed(1)} A`],
    ...(knocked ? [["slower when knocked", (x: One) => `${x.does.dip_rpm.toFixed(0)} r/min`] as [string, (x: One) => ReactNode]] : []),
    ...(oneShaft ? [["of the torque", (x: One) => `${(x.does.share * 100).toFixed(0)} %`] as [string, (x: One) => ReactNode]] : []),
    ["fall", (x) => seconds(x.does.ride.fall_s)],
    ["link at most", (x) => `${x.does.ride.peak_link_v.toFixed(0)} V`],
    ["overload at most", (x) => `${(x.does.ride.warmth * 100).toFixed(0)} %`],
  ];
  return (
    <>
      <table className="mt-2 w-full border-collapse text-[13px]" aria-label="The two beside each other">
        <thead>
          <tr className="text-left align-bottom">
            <th className="w-[22%]" />
            {v.of.map((x, i) => (
              <th key={i} className="w-[39%] border-l border-tin-2 px-2">
                {x.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, of]) => (
            <tr key={name} className="border-t border-tin-2 align-baseline">
              <th scope="row" className="py-0.5 pr-2 text-left font-normal text-ink-2">
                {name}
              </th>
              {v.of.map((x, i) => (
                <td key={i} className="n border-l border-tin-2 px-2">
                  {x.missing && name !== "drive" ? <span className="text-ink-3">{x.missing}</span> : of(x)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {v.differs.length > 0 && (
        <details className="mt-2 text-[13px]">
          <summary className="cursor-pointer">
            {v.differs.length === 1 ? "One setting differs" : `${v.differs.length} settings differ`}
          </summary>
          <ul className="mt-1 columns-2 gap-x-6 max-sm:columns-1">
            {v.differs.map((d) => (
              <li key={d.code} className="break-inside-avoid">
                <b className="n">{d.code}</b> {d.name}: <span className="n">{d.a}</span> / <span className="n">{d.b}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <p className="c mt-2 text-[12.5px] text-ink-3">
        Ridden on the bench, with this job's own figures; vector control after its tune. It proves nothing of the machine.
      </p>
    </>
  );
}

const amps = (a: number) => `${a.toFixed(1)} A`;
