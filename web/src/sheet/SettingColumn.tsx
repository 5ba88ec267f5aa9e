import { useQuery } from "@tanstack/react-query";
import { of } from "../app/asked";
import { api, ok } from "../app/client";
import { useDesk } from "../app/drive";
import { Row } from "../ui/Figure";
import { KeypadPhoto } from "./KeypadPhoto";

/** A setting that the plan says nothing of. */
export function SettingColumn({ code }: { code: string }) {
  const { view } = useDesk();
  const rows = useQuery({
    queryKey: ["settings", view.id, view.seq],
    queryFn: () => ok(api.GET("/api/drives/{id}/settings", { params: { path: { id: view.id } } })),
    placeholderData: of(view.id),
  });
  const r = rows.data?.find((x) => x.code === code);
  if (!r) return null;
  return (
    <>
      <h2>
        {r.code} {r.name}
      </h2>
      <div>
        <Row label="Reads" value={r.read ? (r.read.shown ?? r.read.text) : "–"} note={r.read?.how} />
        <Row label="Delivered" value={r.delivery} />
      </div>
      <p className="text-[13px] text-ink-2">
        {r.options ? `Choices: ${r.options.join(", ")}.` : r.range && `Range ${r.range}.`} {r.motion && "It could start motion. "}The sheet
        plans nothing for it.
      </p>
      <KeypadPhoto code={r.code} />
    </>
  );
}
