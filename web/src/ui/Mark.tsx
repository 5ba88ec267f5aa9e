const arms: Record<string, string> = {
  shut: "M22 22V11M5 14H21M9 14v6M13 14v6M17 14v6",
  work: "M22 22V11M5 14L19 6",
  passed: "M5 16V3M11 15l3.2 3.4L21 10",
  again: "M11 19l5-9 5 9z",
  barred: "M22 22V11M5 14H21M8 9l10 10M18 9L8 19",
};
const words: Record<string, string> = {
  shut: "not begun",
  work: "in work",
  passed: "passed",
  again: "passed, but changed since",
  barred: "barred",
};
const colours: Record<string, string> = {
  shut: "text-tin-4",
  work: "text-plum",
  passed: "text-good",
  again: "text-warn",
  barred: "text-stop",
};

export const markWord = (mark: string) => words[mark] ?? mark;

/** A gate's mark: posts and an arm that say how it stands. */
export function Mark({ mark, size = 26, label, plain }: { mark: string; size?: number; label?: string; plain?: boolean }) {
  return (
    <svg
      data-mark={mark}
      width={size}
      height={size}
      viewBox="0 0 26 26"
      fill="none"
      stroke="currentColor"
      strokeWidth={2.4}
      strokeLinecap="square"
      className={plain ? "" : colours[mark]}
      role="img"
      aria-label={label ?? words[mark]}
    >
      <path d={`M5 22V11${arms[mark] ?? ""}`} />
    </svg>
  );
}
