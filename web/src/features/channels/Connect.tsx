import { Globe, Hand, Mail, Plug, Webhook } from "lucide-react";
import { useState } from "react";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { takes, useChannelDeeds, type Channels } from "./channels";
import { OutsideSheet } from "./OutsideSheet";
import { SiteSheet } from "./SiteSheet";

/** The networks on which an account can be connected. */
export function Connect({ site, networks }: { site: string; networks: Channels["networks"] }) {
  const { connect } = useChannelDeeds(site);
  const say = useSay();
  const [adding, setAdding] = useState<"site" | "mail" | "webhook" | "hands">();
  return (
    <ul className="space-y-1.5">
      {networks.map((n) => (
        <li key={n.kind} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <Button
            icon={<Plug size={14} />}
            disabled={connect.isPending}
            className="w-48 justify-start"
            onClick={() => connect.mutateAsync({ kind: n.kind }).catch(say.trouble)}
          >
            Connect {n.name}
          </Button>
          <span className="text-sm text-soft">{takes(n)}</span>
        </li>
      ))}
      <li className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Button icon={<Globe size={14} />} className="w-48 justify-start" onClick={() => setAdding("site")}>
          Connect your own site…
        </Button>
        <span className="text-sm text-soft">a note on any site that speaks Micropub</span>
      </li>
      <li className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Button icon={<Mail size={14} />} className="w-48 justify-start" onClick={() => setAdding("mail")}>
          Add a mailing list…
        </Button>
        <span className="text-sm text-soft">mails to readers who subscribed</span>
      </li>
      <li className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Button
          icon={<Webhook size={14} />}
          className="w-48 justify-start"
          onClick={() => setAdding("webhook")}
        >
          Add a webhook…
        </Button>
        <span className="text-sm text-soft">messages go, signed, to a program of yours</span>
      </li>
      <li className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <Button icon={<Hand size={14} />} className="w-48 justify-start" onClick={() => setAdding("hands")}>
          Add outside hands…
        </Button>
        <span className="text-sm text-soft">people send messages, and tick them off here</span>
      </li>
      {adding === "site" && <SiteSheet site={site} onClose={() => setAdding(undefined)} />}
      {adding && adding !== "site" && (
        <OutsideSheet site={site} kind={adding} onClose={() => setAdding(undefined)} />
      )}
    </ul>
  );
}
