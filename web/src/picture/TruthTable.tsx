const rows: [string, string, string][] = [
  ["forward", "up", "nothing"],
  ["forward", "down", "pairs A and B"],
  ["backward", "down", "motor leads"],
  ["backward", "up", "leads and pairs"],
];

/** What the first turn with an encoder calls for: asked forward, in open loop. */
export function TruthTable({ shaft, count }: { shaft: string; count: string }) {
  return (
    <table className="list w-full text-[13px]">
      <caption className="pb-1 text-left text-[12.5px] text-ink-2">Asked forward, in open loop</caption>
      <thead>
        <tr>
          <th>Shaft</th>
          <th>Count</th>
          <th>Change</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([s, c, change]) => (
          <tr
            key={s + c}
            aria-current={(s === shaft && c === count) || undefined}
            className={s === shaft && c === count ? "bg-ink text-white" : s === shaft && !count ? "bg-plum-0" : ""}
          >
            <td>{s}</td>
            <td>{c}</td>
            <td className="font-semibold">{change}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
