/** The motor's terminal box with its links, six leads, marked as IEC 60034-8 marks them. */
export function Links({ connection }: { connection: string }) {
  const star = connection === "star";
  const delta = connection === "delta";
  const xs = [90, 190, 290];
  if (!star && !delta)
    return (
      <p className="border border-tin-3 bg-white p-3 text-[13px] text-ink-3">
        Choose star or delta for the linked row to see the links of six leads.
      </p>
    );
  return (
    <svg
      viewBox="0 0 380 118"
      className="w-full border border-tin-3 bg-white"
      role="img"
      aria-label={
        star
          ? "Star: W2, U2 and V2 joined; U1, V1, W1 to the drive"
          : "Delta: U1 to W2, V1 to U2, W1 to V2, each joined; U1, V1, W1 to the drive"
      }
    >
      {star ? (
        <path d="M90 32H290" className="stroke-plum" strokeWidth={9} />
      ) : (
        <path d="M90 32V80M190 32V80M290 32V80" className="stroke-plum" strokeWidth={9} />
      )}
      <g className="fill-white stroke-ink" strokeWidth={2} fillOpacity={0}>
        {xs.map((x) => (
          <g key={x}>
            <circle cx={x} cy={32} r={10} />
            <circle cx={x} cy={80} r={10} />
          </g>
        ))}
      </g>
      <path d="M90 90V112M190 90V112M290 90V112" className="stroke-ink" strokeWidth={3} />
      <g className="n fill-ink" fontSize={14} fontWeight={600}>
        {["W2", "U2", "V2"].map((t, i) => (
          <text key={t} x={xs[i]! - 34} y={24}>
            {t}
          </text>
        ))}
        {["U1", "V1", "W1"].map((t, i) => (
          <text key={t} x={xs[i]! - 34} y={85}>
            {t}
          </text>
        ))}
      </g>
    </svg>
  );
}
