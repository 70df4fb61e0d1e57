import { useDeleteTag, useTags, type Tag } from "../blog/tags";
import { DeleteTopic } from "./DeleteTopic";

type Props = { site: string; tag: Tag; onClose: () => void };

/** Deletes a tag or merges it into another. */
export function DeleteTag({ site, tag, onClose }: Props) {
  const others = (useTags(site, "").data?.tags ?? []).filter((t) => t.id !== tag.id);
  const remove = useDeleteTag(site, tag.id);
  return (
    <DeleteTopic
      topic={tag}
      others={others}
      kind="tag"
      remove={remove}
      choice={{ field: "Merge into", label: "Merge into", none: "None" }}
      stale="Posts were given this tag, or lost it, meanwhile. Look at the numbers again."
      posts={(said, other) => {
        if (tag.posts === 0) return "No posts have it.";
        return other
          ? `Its ${said} will have ${other.name} instead, drafts and the bin included.`
          : `Its ${said} will do without it, drafts and the bin included.`;
      }}
      onClose={onClose}
    />
  );
}
