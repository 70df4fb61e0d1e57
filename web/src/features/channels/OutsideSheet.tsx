import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Copied } from "../../ui/Copied";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { useChannelDeeds } from "./channels";

type Props = { site: string; kind: "webhook" | "hands" | "mail"; onClose: () => void };

const words = {
  webhook: {
    title: "Add a webhook channel",
    about:
      "Each message is sent, signed, to a program of yours, and counts as sent once the program has taken it.",
    name: "Webhook",
    hint: "It gets each message as JSON, signed by the Standard Webhooks specification.",
  },
  mail: {
    title: "Add a mailing list",
    about:
      "Each message goes by mail to everybody who asked for it. Readers subscribe on the blog and confirm that; each mail has a link that ends it.",
    name: "Letters",
    hint: "",
  },
  hands: {
    title: "Add outside hands",
    about:
      "Each message is handed to people or to a program, and counts as sent when they say so: on the list of this screen, or in a signed call back.",
    name: "By hand",
    hint: "Leave it empty if people do it: they find each message on this screen.",
  },
};

/** A channel that is no account on a network: a program at an address, or people. */
export function OutsideSheet({ site, kind, onClose }: Props) {
  const say = words[kind];
  const [name, setName] = useState(say.name);
  const [address, setAddress] = useState("");
  const { add } = useChannelDeeds(site);
  const refusal = add.error instanceof Refusal ? add.error : undefined;
  const secret = add.data?.secret;
  return (
    <Sheet
      open
      onClose={onClose}
      title={add.data ? `${name} is added` : say.title}
      actions={
        add.data ? (
          <Button look="main" onClick={onClose}>
            Close
          </Button>
        ) : (
          <>
            <Button onClick={onClose}>Cancel</Button>
            <Button
              look="main"
              disabled={add.isPending || name.trim() === "" || (kind === "webhook" && address.trim() === "")}
              onClick={() =>
                void add.mutateAsync({ kind, name, address }).then(
                  (made) => made.secret || onClose(),
                  () => undefined,
                )
              }
            >
              Add
            </Button>
          </>
        )
      }
    >
      {secret ? (
        <div className="space-y-2 text-sm">
          <p>Give this secret to the program that receives the messages. It isn’t shown again.</p>
          <Copied label="Secret" text={secret} />
        </div>
      ) : (
        <div className="space-y-3">
          {add.error && !refusal?.problem.errors && <Warning>{add.error.message}</Warning>}
          {refusal?.field("kind") && <Warning>{refusal.field("kind")}</Warning>}
          <p className="text-sm text-soft">{say.about}</p>
          <TextField
            label="Name"
            value={name}
            error={refusal?.field("name")}
            onChange={(e) => setName(e.target.value)}
          />
          {kind !== "mail" && (
            <TextField
              label={kind === "webhook" ? "Address" : "Address of a program, if one does it"}
              placeholder="https://"
              hint={say.hint}
              value={address}
              error={refusal?.field("address")}
              onChange={(e) => setAddress(e.target.value)}
            />
          )}
        </div>
      )}
    </Sheet>
  );
}
