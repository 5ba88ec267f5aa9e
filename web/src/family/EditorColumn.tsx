import { useQuery } from "@tanstack/react-query";
import { api, ok, type Schemas } from "../app/client";
import { Note } from "../ui/Finding";
import { ReadingColumn } from "../ui/Reading";
import { Learn } from "./Learn";
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
  parts,
  setPart,
}: {
  part?: Schemas["Section"];
  row?: Schemas["DraftRow"];
  at: number;
  check: Schemas["DraftCheck"] | null;
  change: (i: number, part: Partial<Schemas["DraftRow"]>) => void;
  remove: () => void;
  parts: Schemas["Section"][];
  setPart: (key: string, rows: string[][]) => void;
}) {
  const roles = useQuery({ queryKey: ["roles"], queryFn: () => ok(api.GET("/api/roles")), staleTime: Infinity });
  const doings = useQuery({ queryKey: ["doings"], queryFn: () => ok(api.GET("/api/doings")), staleTime: Infinity });
  const problems = check?.problems ?? [];
  return (
    <ReadingColumn>
      {part ? (
        <AboutPart part={part} problems={problems.filter((p) => p.part === part.key)} />
      ) : row ? (
        <RowForm
          row={row}
          roles={roles.data ?? []}
          doings={doings.data ?? []}
          problems={problems.filter((p) => !p.part && p.row === at + 1)}
          change={(p) => change(at, p)}
          remove={remove}
        >
          {(row.kind === "number" || row.kind === "choice") && (
            <Learn
              key={at}
              kind="setting"
              choices={row.kind === "choice" ? row.choices : undefined}
              take={(m, words) => {
                change(at, learnt(row, m, words));
                if (m.word_order) orderOf(parts, "word_order", m.word_order, setPart);
                if (m.byte_order) orderOf(parts, "byte_order", m.byte_order, setPart);
              }}
            />
          )}
        </RowForm>
      ) : (
        <p className="text-[13px] text-ink-3">Choose a setting.</p>
      )}
      {part?.key === "link.actuals" && <Learn kind="figure" take={(m, what) => setPart(part.key, withFigure(part, m, what))} />}
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

/** What a row says once its register is known. */
function learnt(row: Schemas["DraftRow"], m: Schemas["Match"], words: string): Partial<Schemas["DraftRow"]> {
  return {
    register: String(m.register),
    register_type: m.type === "u16" ? "" : m.type,
    scale: row.kind === "number" ? (m.scale ?? "") : "",
    from: `register ${words}`,
  };
}

/** A row more of figures over the link. */
function withFigure(part: Schemas["Section"], m: Schemas["Match"], what: string): string[][] {
  const [kind, unit] = what.split(" ");
  const cells: Record<string, string> = {
    what: kind ?? "",
    register: String(m.register),
    register_type: m.type === "u16" ? "" : m.type,
    unit: unit ?? "",
    step: m.scale ? String(Number((1 / Number(m.scale)).toPrecision(6))) : "",
  };
  return [...part.rows, part.columns.map((c) => cells[c.key] ?? "")];
}

/** Puts how the drive orders words or bytes into the family's link. */
function orderOf(parts: Schemas["Section"][], key: string, value: string, setPart: (key: string, rows: string[][]) => void) {
  const link = parts.find((p) => p.key === "link");
  const k = link?.columns.findIndex((c) => c.key === key) ?? -1;
  if (link && k >= 0) setPart("link", [link.columns.map((_, n) => (n === k ? value : (link.rows[0]?.[n] ?? "")))]);
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
