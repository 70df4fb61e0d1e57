import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { useSettled } from "../../ui/useSettled";

export type NewBlog = Schemas["NewBlog"];
export type Start = Schemas["Start"];

/** Whether the server said, with the page, that nobody has set the program up yet. */
export const isNew = () => document.documentElement.dataset.begin !== undefined;

/** What a new blog may begin with: a name in addresses for its title, languages, rhythms with a week of each. */
function useBlogBeginning(title: string, zone: string) {
  return useQuery({
    queryKey: ["new blog", title, zone],
    queryFn: () => answer(api.GET("/api/v1/new-blog", { params: { query: { title, zone } } })),
    placeholderData: (before) => before,
    staleTime: Infinity,
  });
}

const pause = 300;

/**
 * A new blog as it is being filled in. Until its name in addresses is given by hand it follows the title, and the
 * language is the one of the list that is nearest to the browser's.
 */
export function useNewBlog() {
  const [said, setSaid] = useState(blankBlog);
  const [named, setNamed] = useState(false);
  const begin = useBlogBeginning(useSettled(said.title, pause), said.zone).data;
  const blog: NewBlog = {
    ...said,
    slug: named ? said.slug : (begin?.slug ?? ""),
    language: begin ? nearest(said.language, begin.languages) : said.language,
  };
  function change(part: Partial<NewBlog>) {
    setSaid({ ...said, ...part });
    if (part.slug !== undefined) setNamed(part.slug !== "");
  }
  return { blog, begin, change };
}

export type NewBlogForm = ReturnType<typeof useNewBlog>;

/** A blog before anything is said of it: in the browser's zone, which is mostly the right one. */
function blankBlog(): NewBlog {
  return {
    title: "",
    tagline: "",
    slug: "",
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC",
    language: navigator.language || "en-GB",
    start: "steady",
  };
}

/** The language of a list that is nearest to the one that was guessed. */
function nearest(tag: string, languages: Schemas["Language"][]): string {
  const exact = languages.find((l) => l.tag.toLowerCase() === tag.toLowerCase());
  const [main = ""] = tag.toLowerCase().split("-");
  const near = languages.find((l) => l.tag.toLowerCase().split("-")[0] === main);
  return (exact ?? near ?? languages[0])?.tag ?? "en-GB";
}
