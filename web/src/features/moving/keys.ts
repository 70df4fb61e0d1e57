import type { KeyHint } from "../../ui/commands";

/** The keys on a post of the plan, and those on one that is lifted. */
export const moveKeys: KeyHint[] = [
  { name: "Lift the post", keys: "h" },
  { name: "Choose it, with others", keys: "x" },
  { name: "Take it back to the shelf", keys: "Delete" },
  { name: "Lifted: a minute earlier or later", keys: "← →" },
  { name: "Lifted: a day earlier or later", keys: "↑ ↓" },
  { name: "Lifted: 15 minutes, or a week", keys: "Shift + arrows" },
  { name: "Lifted: put it down", keys: "Enter" },
  { name: "Lifted: leave it where it was", keys: "Esc" },
].map((k) => ({ ...k, group: "On a post of the plan" }));

/** What is said once a post is lifted by keys. */
export const liftedWords = (title: string) =>
  `Lifted: ${title}. Left and right move it by a minute, up and down by a day, with Shift by 15 minutes or a week. Enter puts it down, Delete takes it to the shelf, Escape leaves it where it was.`;
