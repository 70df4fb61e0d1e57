import type { Schemas } from "../../api/client";

/** The address of a table of a blog's posts, or of its plan; of the posts of a filter where one is given. */
export function tableOf(
  site: string,
  table: "posts" | "plan",
  format: "csv" | "xlsx",
  filter: Schemas["PostFilter"] = {},
): string {
  const asked = new URLSearchParams({ format });
  for (const [name, value] of Object.entries(filter)) {
    for (const one of Array.isArray(value) ? value : [value]) asked.append(name, String(one));
  }
  return `/api/v1/sites/${site}/tables/${table}?${asked}`;
}
