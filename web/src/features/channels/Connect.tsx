import { Plug } from "lucide-react";
import { Button } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { takes, useChannelDeeds, type Channels } from "./channels";

/** The networks on which an account can be connected. */
export function Connect({ site, networks }: { site: string; networks: Channels["networks"] }) {
  const { connect } = useChannelDeeds(site);
  const say = useSay();
  return (
    <ul className="space-y-1.5">
      {networks.map((n) => (
        <li key={n.kind} className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <Button
            icon={<Plug size={14} />}
            disabled={connect.isPending}
            className="w-40 justify-start"
            onClick={() => connect.mutateAsync({ kind: n.kind }).catch(say.trouble)}
          >
            Connect {n.name}
          </Button>
          <span className="text-sm text-soft">{takes(n)}</span>
        </li>
      ))}
    </ul>
  );
}
