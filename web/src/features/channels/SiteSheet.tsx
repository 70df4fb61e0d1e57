import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { useChannelDeeds } from "./channels";

/** Connects a site of one's own that takes notes by Micropub: one signs in there. */
export function SiteSheet({ site, onClose }: { site: string; onClose: () => void }) {
  const [address, setAddress] = useState("");
  const { connect } = useChannelDeeds(site);
  const refusal = connect.error instanceof Refusal ? connect.error : undefined;
  return (
    <Sheet
      open
      onClose={onClose}
      title="Connect your own site"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={connect.isPending || address.trim() === ""}
            onClick={() => void connect.mutateAsync({ kind: "micropub", address }).catch(() => undefined)}
          >
            {connect.isPending ? "Looking…" : "Next"}
          </Button>
        </>
      }
    >
      <div className="space-y-3">
        {connect.error && !refusal?.field("address") && <Warning>{connect.error.message}</Warning>}
        <p className="text-sm text-soft">
          Any site that speaks Micropub can be a channel: each message becomes a note on it. You sign in there
          and allow it.
        </p>
        <TextField
          label="The site’s address"
          placeholder="https://"
          value={address}
          error={refusal?.field("address")}
          onChange={(e) => setAddress(e.target.value)}
        />
      </div>
    </Sheet>
  );
}
