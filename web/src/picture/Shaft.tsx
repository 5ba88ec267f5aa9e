type Props = {
  /** Of forward, seen from the end named; empty: not said yet. */
  sense: string;
  from: string;
  /** Turns of the shaft so far, forward counted up; undefined: nobody turns it here. */
  turns?: number;
  size?: number;
};

/** A shaft's end with its key, and the arrow of forward. On the bench the key goes round. */
export function Shaft({ sense, from, turns, size = 150 }: Props) {
  const sign = sense === "counter-clockwise" ? -1 : 1;
  const angle = turns === undefined ? 0 : (((turns * 360 * sign) % 360) + 360) % 360;
  const end = from === "fan-end" ? "fan end" : "drive end";
  return (
    <svg
      className="shrink-0"
      viewBox="0 0 150 150"
      width={size}
      height={size}
      role="img"
      aria-label={sense ? `Seen from the ${end}, forward is ${sense}` : "Which way forward is, is not said yet"}
    >
      <circle cx={75} cy={75} r={66} className="fill-tin-1 stroke-tin-4" strokeWidth={1.5} />
      {from === "fan-end" &&
        [0, 60, 120, 180, 240, 300].map((a) => (
          <path key={a} d="M75 75L68 18H82Z" className="fill-tin-2 stroke-tin-3" transform={`rotate(${a + angle} 75 75)`} />
        ))}
      <g transform={`rotate(${angle} 75 75)`}>
        <circle cx={75} cy={75} r={34} className="fill-tin-3 stroke-ink" strokeWidth={2} />
        <rect x={69} y={35} width={12} height={13} className="fill-white stroke-ink" strokeWidth={1.6} />
        <circle cx={75} cy={75} r={3} className="fill-ink" />
      </g>
      {sense && (
        <g transform={sign < 0 ? "matrix(-1 0 0 1 150 0)" : undefined} className="fill-none stroke-plum">
          <path d="M25 55A54 54 0 0 1 116 40" strokeWidth={5} />
          <path d="M121 46L106 44L118 32Z" className="fill-plum" strokeWidth={1} />
        </g>
      )}
    </svg>
  );
}
