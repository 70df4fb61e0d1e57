import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import { useEditDeeds, type Choice, type WholeEdit } from "../revisions/timed";

type Props = {
  site: string;
  edit: WholeEdit;
  at: { date: string; clock: string };
  onSettled: (edit: WholeEdit) => void;
};

const choices: { value: Choice; name: string }[] = [
  { value: "theirs", name: "Keep what the post says" },
  { value: "ours", name: "Take the edit" },
  { value: "both", name: "Keep both" },
];

/** Where the post was changed in the same places as by the edit: both side by side, with a choice for each. */
export function Clashes({ site, edit, at, onSettled }: Props) {
  const [chosen, setChosen] = useState<Record<number, Choice>>({});
  const { settle } = useEditDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const all = edit.clashes.map((_, i) => chosen[i]);
  const ready = all.every(Boolean);
  return (
    <section aria-label="Clashes" className="space-y-4 rounded-md border border-madder bg-sheet p-4">
      <p className="text-sm">
        The post was changed since this edit was prepared, in the same{" "}
        {edit.clashes.length === 1 ? "place" : `${edit.clashes.length} places`}. Choose what stays.
      </p>
      {edit.clashes.map((c, i) => (
        <fieldset key={i} className="border-t border-line pt-3">
          <legend className="float-left w-full text-xs text-soft">
            {c.part[0]!.toUpperCase() + c.part.slice(1)}
          </legend>
          <div className="clear-both grid gap-3 text-sm sm:grid-cols-2">
            <Side name="The post now" text={c.theirs} was={c.base} on={all[i] !== "ours"} />
            <Side name="The edit" text={c.ours} was={c.base} on={all[i] === "ours" || all[i] === "both"} />
          </div>
          <div className="mt-2 flex flex-wrap gap-2">
            {choices
              .filter((o) => o.value !== "both" || c.part === "text")
              .map((o) => (
                <Button
                  key={o.value}
                  aria-pressed={all[i] === o.value}
                  className={all[i] === o.value ? "bg-ink! text-ground!" : ""}
                  onClick={() => setChosen((now) => ({ ...now, [i]: o.value }))}
                >
                  {o.name}
                </Button>
              ))}
          </div>
        </fieldset>
      ))}
      <Button
        look="main"
        disabled={!ready || settle.isPending}
        onClick={() =>
          settle.mutate(
            { id: edit.id, version: edit.version, choices: all as Choice[], at },
            {
              onSuccess: (settled) => {
                onSettled(settled);
                tell("Settled. It waits for its time.");
              },
              onError: (error) =>
                say.trouble(
                  error instanceof Refusal && error.problem.status === 409
                    ? new Error("The post or the edit was changed just now. Look at the clashes again.")
                    : error,
                ),
            },
          )
        }
      >
        Settle
      </Button>
    </section>
  );
}

function Side({ name, text, was, on }: { name: string; text: string; was: string; on: boolean }) {
  return (
    <div className={`rounded-md border p-2 ${on ? "border-strong" : "border-line "}`}>
      <p className="text-xs text-soft">{name}</p>
      <p className="max-h-60 overflow-y-auto wrap-anywhere whitespace-pre-wrap">
        {text || <span className="text-soft italic">{was ? "Removed" : "Nothing"}</span>}
      </p>
    </div>
  );
}
