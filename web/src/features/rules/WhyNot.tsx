import { useState } from "react";
import { PostChoice } from "./PostChoice";
import { useWhy, type RuleBody } from "./rules";

/** Why not this one? Explains the rule's verdict on any post. */
export function WhyNot({ site, id, rule }: { site: string; id: number; rule: RuleBody }) {
  const [post, setPost] = useState<{ id: number; title: string }>();
  const why = useWhy(site, id, rule, post?.id);
  return (
    <div className="mt-4">
      <h3 className="mb-1 text-sm font-semibold">Why not this one?</h3>
      <PostChoice site={site} label="Find a post by its title" hideLabel value={post} onChange={setPost} />
      {why.data && post && (
        <p role="status" className="mt-2 text-sm">
          <span className="font-medium">“{why.data.title}”</span> is{" "}
          {why.data.caught ? "caught" : "not caught"}: {why.data.reason}.
        </p>
      )}
      {why.error && <p className="mt-2 text-sm text-madder">{why.error.message}</p>}
    </div>
  );
}
