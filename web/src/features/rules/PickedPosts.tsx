import { X } from "lucide-react";
import { IconButton } from "../../ui/Button";
import { useSay } from "../../ui/toast";
import { PostChoice } from "./PostChoice";
import { useHistory, useRuleDeeds } from "./rules";

/** The posts that were picked by hand for a rule that shares only those. */
export function PickedPosts({ site, id }: { site: string; id: number }) {
  const picked = useHistory(site, id).data?.picked ?? [];
  const { pick } = useRuleDeeds(site);
  const say = useSay();
  if (id === 0) return <p className="w-full text-xs text-soft">Save the rule first, then pick its posts.</p>;
  const put = (post: number, on: boolean) => pick.mutateAsync({ id, post, picked: on }).catch(say.trouble);
  return (
    <div className="w-full max-w-md">
      {picked.length === 0 && <p className="text-sm text-soft">No post is picked yet.</p>}
      <ul className="mb-1 divide-y divide-line empty:hidden">
        {picked.map((p) => (
          <li key={p.id} className="flex items-center gap-2 text-sm">
            <span className="min-w-0 flex-1 truncate">{p.title}</span>
            <IconButton label={`Remove “${p.title}”`} onClick={() => void put(p.id, false)}>
              <X size={15} />
            </IconButton>
          </li>
        ))}
      </ul>
      <PostChoice site={site} label="Pick a post" onChange={(p) => void put(p.id, true)} />
    </div>
  );
}
