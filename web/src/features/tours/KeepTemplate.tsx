import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useTemplates, useTourDeeds, type Tour } from "./tours";

/** Keeps what a tour has beside its post and its lines, by a name. */
export function KeepTemplate({ site, tour, onClose }: { site: string; tour: Tour; onClose: () => void }) {
  const [name, setName] = useState("");
  const { keep } = useTourDeeds(site);
  const say = useSay();
  const templates = useTemplates(site).data ?? [];
  const refusal = keep.error instanceof Refusal ? keep.error : undefined;
  const taken = templates.some((t) => t.name.toLowerCase() === name.trim().toLowerCase());
  return (
    <Sheet
      open
      onClose={onClose}
      title="Keep as a template"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={name.trim() === "" || keep.isPending}
            onClick={() =>
              void keep.mutateAsync({ name, tour: tour.id }).then(
                () => {
                  say.done("Template kept. Choose it when you begin a tour.");
                  onClose();
                },
                () => undefined,
              )
            }
          >
            {taken ? "Replace the template" : "Keep the template"}
          </Button>
        </>
      }
    >
      {keep.error && !refusal?.field("name") && <Warning>{keep.error.message}</Warning>}
      <p className="mb-3 text-sm text-soft">
        It keeps the tour’s wordings, channels, pictures, dates and hours as they were last saved, but not its
        post and its lines.
      </p>
      <TextField
        label="Name"
        value={name}
        error={refusal?.field("name")}
        onChange={(e) => setName(e.target.value)}
      />
    </Sheet>
  );
}
