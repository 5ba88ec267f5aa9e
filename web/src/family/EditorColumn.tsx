import { useQuery } from "@tanstack/react-query";
import { api, ok, type Schemas } from "../app/client";
import { Note } from "../ui/Finding";
import { ReadingColumn } from "../ui/Reading";
import { RowForm } from "./RowForm";

type Fault = Schemas["RowFault"];

/** Beside the list: the setting that is changed, or what a part is good for, and what is wrong with it. */
export function EditorColumn({
  part,
  row,
  at,
  check,
  change,
  remove,
}: {
  part?: Schemas["Section"];
  row?: Schemas["DraftRow"];
  at: number;
  check: Schemas["DraftCheck"] | null;
  change: (i: number, part: Partial<Schemas["DraftRow"]>) => void;
  remove: () => void;
}) {
  const roles = useQuery({ queryKey: ["roles"], queryFn: () => ok(api.GET("/api/roles")), staleTime: Infinity });
  const problems = check?.problems ?? [];
  return (
    <ReadingColumn>
      {part ? (
        <AboutPart part={part} problems={problems.filter((p) => p.part === part.key)} />
      ) : row ? (
        <RowForm
          row={row}
          roles={roles.data ?? []}
          problems={problems.filter((p) => !p.part && p.row === at + 1)}
          change={(p) => change(at, p)}
          remove={remove}
        />
      ) : (
        <p className="text-[13px] text-ink-3">Choose a setting.</p>
      )}
      {problems
        .filter((p) => p.row === 0 && !p.part)
        .map((p) => (
          <Note key={p.field + p.got} kind="stop" title={`${p.field}: got ${p.got || "nothing"}`}>
            Wanted: {p.want}.
          </Note>
        ))}
      {check && check.missing.length > 0 && (
        <Note kind="note" title="The sheet will not fill in">
          {check.missing.join(", ")}: no setting carries it yet.
        </Note>
      )}
    </ReadingColumn>
  );
}

function AboutPart({ part, problems }: { part: Schemas["Section"]; problems: Fault[] }) {
  return (
    <>
      <h2>{part.title}</h2>
      <p className="text-[13.5px] text-ink-2">{part.about}</p>
      {!part.single && (
        <p className="text-[13px] text-ink-3">Cells of a spreadsheet can be pasted: they fill what lies right of and below the field.</p>
      )}
      {problems.map((p) => (
        <Note
          key={`${p.row} ${p.field}`}
          kind="stop"
          title={`${part.single ? "" : `Row ${p.row}, `}${part.columns.find((c) => c.key === p.field)?.label ?? p.field}: got ${p.got || "nothing"}`}
        >
          Wanted: {p.want}.
        </Note>
      ))}
    </>
  );
}
