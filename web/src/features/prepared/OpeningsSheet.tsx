import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { CadenceFields } from "../rules/CadenceFields";
import { usePreparedDeeds, type Openings } from "./prepared";

type Props = { site: string; openings: Openings; onClose: () => void };

/** When messages without a time go out. */
export function OpeningsSheet({ site, openings, onClose }: Props) {
  const [cadence, setCadence] = useState(openings.cadence);
  const { openings: save } = usePreparedDeeds(site);
  const say = useSay();
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title="Openings for messages without a time"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={save.isPending}
            onClick={() =>
              void save.mutateAsync({ cadence, version: openings.version }).then(
                () => {
                  say.done("Saved. Messages that are ready keep their time.");
                  onClose();
                },
                () => undefined,
              )
            }
          >
            Save
          </Button>
        </>
      }
    >
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <p className="mb-3 text-sm text-soft">
        Each opening is for one message. Messages take them in the table’s order.
      </p>
      <CadenceFields
        site={site}
        kind="reshare"
        cadence={cadence}
        problem={(field) => refusal?.field(`cadence.${field}`)}
        onChange={setCadence}
      />
    </Sheet>
  );
}
