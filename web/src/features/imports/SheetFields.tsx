import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { OptionalNumberField } from "../../ui/NumberField";
import { Several } from "../../ui/Several";
import type { Part } from "./SetupScreen";

/** How a sheet is read: which one, where its headings are, which rows count. */
export function SheetFields({ setup, look, wrong, onChange }: Part) {
  const sheet = setup.sheet ?? {};
  const set = (change: Partial<NonNullable<typeof setup.sheet>>) =>
    onChange({ sheet: { ...sheet, ...change } });
  const columns = (look.headings ?? []).map((h) => ({ value: h, name: h }));
  const heading = sheet.heading ? `Headings in row ${sheet.heading}` : "No headings";
  return (
    <Fold
      title="Sheet"
      open
      summary={`${look.sheet ? `${look.sheet} · ` : ""}${heading}${sheet.key ? ` · known again by ${sheet.key}` : ""}`}
    >
      <div className="flex flex-wrap gap-3">
        {(look.sheets?.length ?? 0) > 1 && (
          <div className="w-48">
            <Field label="Sheet">
              <Choice
                label="Sheet"
                value={look.sheet ?? ""}
                options={(look.sheets ?? []).map((s) => ({ value: s, name: s }))}
                onChange={(name) => set({ name })}
              />
            </Field>
          </div>
        )}
        <div className="w-36">
          <OptionalNumberField
            label="Row with headings"
            placeholder="none"
            value={sheet.heading}
            error={wrong("sheet.heading")}
            onChange={(n) => set({ heading: n })}
          />
        </div>
        <div className="w-36">
          <OptionalNumberField
            label="Leave out rows up to"
            placeholder="none"
            value={sheet.skip}
            onChange={(n) => set({ skip: n })}
          />
        </div>
        <div className="w-36">
          <OptionalNumberField
            label="Fewest filled cells"
            placeholder="any"
            value={sheet.fewest}
            error={wrong("sheet.fewest")}
            onChange={(n) => set({ fewest: n })}
          />
        </div>
        <div className="w-48">
          <Field label="Must not be empty" error={wrong("sheet.needed")}>
            <Several
              label="Must not be empty"
              values={sheet.needed ?? []}
              options={columns}
              any="any column may be"
              many="columns"
              onChange={(needed) => set({ needed })}
            />
          </Field>
        </div>
        <div className="w-48">
          <Field
            label="Rows are known again by"
            error={wrong("sheet.key")}
            hint="So that the same sheet, brought in later, changes its posts."
          >
            <Choice
              label="Rows are known again by"
              value={sheet.key ?? ""}
              options={[{ value: "", name: "their row numbers" }, ...columns]}
              onChange={(key) => set({ key: key || undefined })}
            />
          </Field>
        </div>
      </div>
      <Rows
        rows={look.rows ?? []}
        heading={sheet.heading ?? 0}
        from={Math.max(sheet.heading ?? 0, sheet.skip ?? 0)}
      />
    </Fold>
  );
}

type RowsProps = { rows: { row: number; cells: string[] }[]; heading: number; from: number };

/** The first rows as they stand; those that are left out are pale. */
function Rows({ rows, heading, from }: RowsProps) {
  return (
    <div
      className="overflow-x-auto rounded-md border border-line"
      // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- so that keys scroll it
      tabIndex={0}
      role="region"
      aria-label="The first rows"
    >
      <table className="text-left text-xs">
        <tbody>
          {rows.slice(0, 8).map((r) => (
            <tr
              key={r.row}
              className={`border-b border-line last:border-0 ${r.row === heading ? "bg-sunk font-semibold" : r.row <= from ? "text-faint" : ""}`}
            >
              <th scope="row" className="px-2 py-0.5 text-right font-normal text-soft tabular-nums">
                {r.row}
              </th>
              {r.cells.map((c, n) => (
                <td key={n} className="max-w-48 truncate px-2 py-0.5" title={c}>
                  {c}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
