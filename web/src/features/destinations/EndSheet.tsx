import { useState } from "react";
import { Button } from "../../ui/Button";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useDestinationDeeds, type Destination } from "./destinations";

type Props = { site: string; destination: Destination; onClose: () => void };

/** Posts go there no more: what becomes of those that are there. */
export function EndSheet({ site, destination: d, onClose }: Props) {
  const [remove, setRemove] = useState(false);
  const { end } = useDestinationDeeds(site);
  const say = useSay();
  const there = d.there === 1 ? "1 post is" : `${d.there.toLocaleString("en-GB")} posts are`;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Delete ${d.name}?`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="trouble"
            disabled={end.isPending}
            onClick={() =>
              end.mutateAsync({ id: d.id, version: d.version, remove }).then(
                () => {
                  say.done(remove ? `Posts are being removed from ${d.name}.` : `${d.name} is deleted.`);
                  onClose();
                },
                () => undefined,
              )
            }
          >
            {remove ? "Remove the posts and delete" : "Delete"}
          </Button>
        </>
      }
    >
      <div className="space-y-3 text-sm">
        {end.error && <Warning>{end.error.message}</Warning>}
        <p>
          No more posts go to {d.name}, and changes don’t follow there. {there} there now.
        </p>
        {d.there > 0 && (
          <Segments
            label="What becomes of them"
            value={remove ? "remove" : "leave"}
            options={[
              { value: "leave", name: "Leave them there" },
              { value: "remove", name: "Remove them there" },
            ]}
            onChange={(to) => setRemove(to === "remove")}
          />
        )}
        {remove && <p className="text-soft">It takes a while, and can’t be undone from here.</p>}
      </div>
    </Sheet>
  );
}
