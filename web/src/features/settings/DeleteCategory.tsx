import { useDeleteCategory, type Category } from "../blog/categories";
import { DeleteTopic } from "./DeleteTopic";

type Props = { site: string; category: Category; others: Category[]; onClose: () => void };

/** Deletes a category or merges it into another. */
export function DeleteCategory({ site, category, others, onClose }: Props) {
  const remove = useDeleteCategory(site, category.id);
  const posts = category.posts === 1 ? "1 post" : `${category.posts} posts`;
  return (
    <DeleteTopic
      topic={category}
      others={others}
      kind="category"
      remove={remove}
      choice={
        category.posts > 0
          ? { field: `Its ${posts} go to`, label: "Where its posts go", none: "No category" }
          : { field: "Merge into", label: "Merge into", none: "None" }
      }
      stale="Posts were put into this category, or taken out of it, meanwhile. Look at the numbers again."
      posts={(said, other) =>
        category.posts === 0
          ? "No posts are in it."
          : `Its ${said} will be in ${other ? other.name : "no category"}, drafts and the bin included.`
      }
      more={(other) =>
        category.openings > 0 && (
          <li>
            {other
              ? `What the rhythm reserves for it is reserved for ${other.name}.`
              : "An opening that is reserved for it alone will be open to all posts."}
          </li>
        )
      }
      onClose={onClose}
    />
  );
}
