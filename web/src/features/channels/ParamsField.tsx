import { Trash2 } from "lucide-react";
import type { Schemas } from "../../api/client";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { TextField } from "../../ui/Field";

type Param = Schemas["Param"];

type Props = {
  params: Param[];
  error?: string | undefined;
  hint?: string;
  onChange: (params: Param[]) => void;
};

/** What is added to links, such as utm_source. */
export function ParamsField({ params, error, hint, onChange }: Props) {
  const put = (i: number, p?: Param) =>
    onChange(params.flatMap((other, j) => (j !== i ? [other] : p ? [p] : [])));
  return (
    <div>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-1.5">
        {params.map((p, i) => (
          // Parameters are told apart by their place while their names are being written.
          <div key={i} className="flex items-start gap-1">
            <div className="w-32">
              <TextField
                label={`Link parameter ${i + 1}`}
                hideLabel
                placeholder="utm_source"
                value={p.name}
                onChange={(e) => put(i, { ...p, name: e.target.value })}
              />
            </div>
            <span className="pt-1.5 text-sm">=</span>
            <div className="w-32">
              <TextField
                label={`Value of link parameter ${i + 1}`}
                hideLabel
                value={p.value}
                onChange={(e) => put(i, { ...p, value: e.target.value })}
              />
            </div>
            <IconButton label={`Remove link parameter ${i + 1}`} onClick={() => put(i)}>
              <Trash2 size={15} />
            </IconButton>
          </div>
        ))}
        <AddButton look="quiet" onAdd={() => onChange([...params, { name: "", value: "" }])}>
          Add a link parameter
        </AddButton>
      </div>
      {hint && !error && <p className="mt-1 text-xs text-faint">{hint}</p>}
      {error && (
        <p role="alert" className="mt-1 text-xs text-madder">
          {error}
        </p>
      )}
    </div>
  );
}
