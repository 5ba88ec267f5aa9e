import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, ok, say } from "../app/client";
import { useDesk } from "../app/drive";
import { KeypadCard } from "../family/KeypadCard";

/** What the hand needs to know of this family's keypad, beside the settings. */
export function KeypadColumn() {
  const { view } = useDesk();
  const manual = useQuery({
    queryKey: ["family", view.family.name, view.family.version],
    enabled: !!view.family.name,
    queryFn: () =>
      ok(api.GET("/api/families/{name}", { params: { path: { name: view.family.name }, query: { version: view.family.version } } })),
  });
  if (manual.error) return <p className="text-stop">✕ {say(manual.error)}</p>;
  if (!manual.data) return <p className="text-[13px] text-ink-3">Choose the drive's family at gate Plate.</p>;
  return (
    <>
      <h2>Keypad of {view.family.name}</h2>
      <KeypadCard keypad={manual.data.keypad} />
      <Link className="act" to={`/families/${view.family.name}?version=${view.family.version}`}>
        Recipes, terminals and faults
      </Link>
    </>
  );
}
