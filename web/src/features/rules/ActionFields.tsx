import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { TextArea } from "../../ui/TextArea";
import { useCategories } from "../blog/categories";
import { Line } from "./Line";
import { PostChoice } from "./PostChoice";
import type { RuleBody } from "./rules";

export type Action = Pick<RuleBody, "categoryId" | "tag" | "notice" | "answer" | "leadsTo"> & {
  action: string;
  leadsToTitle?: string | undefined;
};

type Props = {
  site: string;
  action: Action;
  problem: (field: string) => string | undefined;
  set: (change: Partial<Action>) => void;
};

export const actions = [
  { value: "archive", name: "Archive them" },
  { value: "draft", name: "Turn them back into drafts" },
  { value: "bin", name: "Move them to the bin" },
  { value: "category", name: "Move them to a category" },
  { value: "tag", name: "Add a tag" },
  { value: "notice", name: "Put a notice above them" },
  { value: "comments", name: "Close their comments" },
  { value: "delete", name: "Delete them for good" },
];

const told: Record<string, string> = {
  archive: "Out of lists, feeds and sitemap.",
  draft: "Readers no longer find the page. The text is kept as a draft.",
  bin: "Readers no longer find the page. The bin can be emptied after some days, under Settings.",
  category: "The post stays out, at the same address.",
  tag: "The post stays out. Other rules can look for the tag.",
  notice: "The post stays out. The notice goes when it comes out again.",
  comments: "The post stays out. Comments that are there stay.",
  delete: "Only posts that are in the bin already. This can’t be undone.",
};

const answers = [
  { value: "", name: "the page, with a notice" },
  { value: "redirect", name: "another post" },
  { value: "gone", name: "word that it is gone (410)" },
];

/** What happens to posts, and what that needs to know. */
export function ActionFields({ site, action, problem, set }: Props) {
  const categories = useCategories(site);
  const does = action.action;
  return (
    <>
      <Line name="What happens" hint={told[does] ?? ""}>
        <div className="w-60">
          <Choice
            label="What happens"
            value={does}
            options={actions}
            onChange={(action) => set({ action })}
          />
        </div>
        {does === "category" && (
          <div className="w-52">
            <Choice
              label="Category"
              value={action.categoryId ?? 0}
              options={[
                { value: 0, name: "Choose a category" },
                ...(categories.data ?? []).map((c) => ({ value: c.id, name: c.name })),
              ]}
              onChange={(categoryId) => set({ categoryId })}
            />
            <Said problem={problem("category")} />
          </div>
        )}
        {does === "tag" && (
          <div className="w-52">
            <TextField
              label="Tag"
              hideLabel
              value={action.tag ?? ""}
              error={problem("tag")}
              placeholder="such as: out of date"
              onChange={(e) => set({ tag: e.target.value })}
            />
          </div>
        )}
      </Line>
      {does === "archive" && (
        <Line name="Readers get">
          <div className="w-60">
            <Choice
              label="Readers get"
              value={action.answer ?? ""}
              options={answers}
              onChange={(answer) => set({ answer })}
            />
          </div>
          {action.answer === "redirect" && (
            <div className="w-64">
              <PostChoice
                site={site}
                label="The post they are sent on to"
                hideLabel
                value={
                  action.leadsTo ? { id: action.leadsTo, title: action.leadsToTitle ?? "a post" } : undefined
                }
                onChange={({ id, title }) => set({ leadsTo: id, leadsToTitle: title })}
              />
              <Said problem={problem("leadsTo")} />
            </div>
          )}
        </Line>
      )}
      {(does === "notice" || (does === "archive" && !action.answer)) && (
        <Line name="Notice" hint="{published} is the date the post came out, {date} that of the day.">
          <div className="w-full max-w-lg">
            <TextArea
              label="Notice"
              hideLabel
              rows={2}
              value={action.notice ?? ""}
              error={problem("notice")}
              placeholder={
                does === "notice"
                  ? "This is from {published}. What it says may no longer hold."
                  : "This page was archived on {date}. What it says may no longer hold."
              }
              onChange={(e) => set({ notice: e.target.value })}
            />
          </div>
        </Line>
      )}
    </>
  );
}

function Said({ problem }: { problem: string | undefined }) {
  if (!problem) return null;
  return (
    <p role="alert" className="mt-1 text-xs text-madder">
      {problem}
    </p>
  );
}
