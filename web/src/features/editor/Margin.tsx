import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Fold } from "../../ui/Fold";
import { shownDate } from "../../ui/siteClock";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import { isDate } from "../../ui/typed";
import { BoundsForm, boundsOf } from "../post/BoundsForm";
import { PostSharing } from "../channels/PostSharing";
import { PostPlaces } from "../destinations/PostPlaces";
import { RemarksFold } from "../remarks/Remarks";
import { History } from "../revisions/History";
import { PostEdits } from "../revisions/PostEdits";
import { PostUpkeep } from "../upkeep/PostUpkeep";
import { usePeople } from "../blog/people";
import type { Autosave, Fields, State } from "./autosave";
import { useTopics } from "../blog/topics";
import { CategoryField } from "./CategoryField";
import { CustomFields } from "./CustomFields";
import { FeaturedField } from "./FeaturedField";
import { SecretLinks } from "./SecretLinks";
import { Standing } from "./Standing";
import { TagsField } from "./TagsField";
import { UpkeepFields } from "./UpkeepFields";

type Props = { site: string; autosave: Autosave; state: State; editor: boolean };

/** Beside the text: where the post stands, and what is said about it. */
export function Margin({ site, autosave, state, editor }: Props) {
  const topics = useTopics(site);
  const { fields, errors, post } = state;
  const item = fields.kind === "link";
  return (
    <aside aria-label="About the post" className="w-full shrink-0 pt-1 lg:w-68">
      <Standing site={site} autosave={autosave} state={state} editor={editor} />
      <div className="mt-4 space-y-3 border-b border-line pb-4">
        <CategoryField
          site={site}
          value={fields.categoryId}
          categories={topics.data?.categories ?? []}
          editor={editor}
          error={errors.categoryId}
          onChange={(categoryId) => autosave.edit({ categoryId })}
        />
        <TagsField
          tags={fields.tags}
          known={topics.data?.tagNames ?? []}
          error={errors.tags}
          onChange={(tags) => autosave.edit({ tags })}
        />
      </div>
      <Fold
        title="Featured image"
        summary={fields.featured.address ? fields.featured.alt || "Chosen; not described yet" : "None"}
        trouble={Boolean(errors.featured)}
      >
        <FeaturedField
          site={site}
          featured={fields.featured}
          error={errors.featured}
          onChange={(featured) => autosave.edit({ featured })}
        />
      </Fold>
      {!item && (
        <Fold
          title="Excerpt"
          summary={fields.excerpt || "The beginning of the text"}
          trouble={Boolean(errors.excerpt)}
        >
          <TextArea
            label="Excerpt"
            hideLabel
            rows={4}
            value={fields.excerpt}
            error={errors.excerpt}
            hint="For lists, feeds and messages. Where it is empty, they take the beginning of the text."
            onChange={(e) => autosave.edit({ excerpt: e.target.value })}
          />
        </Fold>
      )}
      {editor && post.status === "draft" && post.id !== 0 && (
        <Fold title="Not before, deadline" summary={bounds(state)}>
          <BoundsForm
            key={boundsOf(post)}
            site={site}
            post={post}
            before={() => autosave.flush().then(() => autosave.snapshot().post.version)}
            onDone={(saved) => autosave.hear(saved)}
          />
        </Fold>
      )}
      {editor && !item && (
        <Fold title="Upkeep" summary={upkeep(fields)} trouble={Boolean(errors.expires)}>
          <UpkeepFields autosave={autosave} state={state} />
          {["published", "archived", "binned"].includes(post.status) && (
            <div className="border-t border-line pt-3">
              <PostUpkeep
                site={site}
                id={post.id}
                before={() => autosave.flush().then(() => autosave.snapshot().post.version)}
              />
            </div>
          )}
        </Fold>
      )}
      {post.id !== 0 && (
        <RemarksFold
          site={site}
          post={post.id}
          body={fields.body}
          editor={editor}
          comingOut={post.status === "draft" || post.status === "scheduled"}
        />
      )}
      {editor && post.id !== 0 && (
        <Fold title="Sharing" summary="On the blog’s channels, by itself or at a time">
          <PostSharing
            site={site}
            post={{ id: post.id, title: post.title }}
            out={["published", "archived", "linked"].includes(post.status)}
          />
        </Fold>
      )}
      {post.status === "published" && !item && (
        <Fold title="Timed edits" summary="Change it on a date">
          <PostEdits site={site} post={post.id} editor={editor} />
        </Fold>
      )}
      {post.id !== 0 && (
        <Fold title="Versions" summary="Every version of the text">
          <History
            site={site}
            post={post.id}
            editor={editor}
            before={() => autosave.flush().then(() => autosave.snapshot().post.version)}
            onDone={(saved) => autosave.hear(saved)}
          />
        </Fold>
      )}
      {post.id !== 0 && !item && <PostPlaces site={site} post={post.id} />}
      <Fold
        title="Custom fields"
        summary={
          Object.entries(fields.fields)
            .map(([name, value]) => `${name}: ${value}`)
            .join(" · ") || "None"
        }
        trouble={Boolean(errors.fields)}
      >
        <CustomFields
          fields={fields.fields}
          error={errors.fields}
          onChange={(named) => autosave.edit({ fields: named })}
        />
      </Fold>
      {editor && !item && (
        <Fold title="Author and kind" summary={authorAndKind(state)} trouble={Boolean(errors.authorId)}>
          <AuthorAndKind site={site} autosave={autosave} state={state} />
        </Fold>
      )}
      {!item && (
        <Fold title="Share a preview link" summary="For somebody to read before it is out">
          <SecretLinks site={site} autosave={autosave} />
        </Fold>
      )}
    </aside>
  );
}

function bounds({ post }: State): string {
  const said = [
    post.notBefore && `not before ${shownDate(post.notBefore.date)}`,
    post.deadline && `by ${shownDate(post.deadline.date)}`,
  ].filter(Boolean);
  return said.join(", ") || "Any time";
}

function upkeep(fields: Fields): string {
  const said = [
    fields.evergreen && "evergreen",
    fields.neverExpires && "never expires",
    fields.expires.date &&
      isDate(fields.expires.date) &&
      `expires ${shownDate(fields.expires.date)} ${fields.expires.clock ?? ""}`,
  ].filter(Boolean);
  return said.join(", ") || "As the rules say";
}

function authorAndKind({ post, fields }: State): string {
  const said = [
    post.author,
    fields.kind,
    fields.onTop && "on top",
    fields.kind === "post" && !fields.commentsOpen && "comments closed",
  ].filter(Boolean);
  return said.join(" · ");
}

const kinds = [
  { value: "post" as const, name: "Post: in lists and feeds" },
  { value: "page" as const, name: "Page: linked from the blog’s head" },
];

function AuthorAndKind({ site, autosave, state }: Omit<Props, "editor">) {
  const people = usePeople(site);
  const { fields, errors, post } = state;
  const authors = (people.data ?? []).map((p) => ({ value: p.id, name: p.name }));
  if (!authors.some((a) => a.value === fields.authorId))
    authors.push({ value: post.authorId, name: post.author });
  return (
    <>
      <Field label="Author" error={errors.authorId}>
        <Choice
          label="Author"
          value={fields.authorId}
          options={authors}
          onChange={(authorId) => autosave.edit({ authorId })}
        />
      </Field>
      <Field label="Kind" error={errors.kind}>
        <Choice
          label="Kind"
          value={fields.kind}
          options={kinds}
          onChange={(kind) => autosave.edit({ kind })}
        />
      </Field>
      <Tick
        label="On top of the front page"
        on={fields.onTop}
        onChange={(onTop) => autosave.edit({ onTop })}
      />
      {fields.kind === "post" && (
        <Tick
          label="Comments are open"
          on={fields.commentsOpen}
          onChange={(commentsOpen) => autosave.edit({ commentsOpen })}
        />
      )}
    </>
  );
}
