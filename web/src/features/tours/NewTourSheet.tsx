import { X } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { Refusal } from "../../api/client";
import { Button, IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { TextField } from "../../ui/Field";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { PostChoice } from "../rules/PostChoice";
import { counted, useTemplates, useTourDeeds } from "./tours";

type Post = { id: number; title: string };

type Props = {
  site: string;
  /** The tour whose wordings, channels and dates it takes; none: a new one. */
  like?: { id: number; name: string };
  /** Posts that are chosen to begin with. */
  posts?: Post[];
  onClose: () => void;
};

/** Begins a tour of each of some posts, or of a page elsewhere: from the beginning, or in the manner of another. */
export function NewTourSheet({ site, like, posts: given = [], onClose }: Props) {
  const navigate = useNavigate();
  const { begin } = useTourDeeds(site);
  const [of, setOf] = useState<"posts" | "page">("posts");
  const [posts, setPosts] = useState(given);
  const [address, setAddress] = useState("");
  const [template, setTemplate] = useState(0);
  const ready = of === "page" ? address.trim() !== "" : posts.length > 0;
  const refusal = begin.error instanceof Refusal ? begin.error : undefined;
  const go = () =>
    begin
      .mutateAsync({
        ...(of === "page" ? { address: address.trim() } : { postIds: posts.map((p) => p.id) }),
        ...(like ? { like: like.id } : template ? { template } : {}),
      })
      .then(
        ({ ids }) => {
          onClose();
          void navigate(ids.length === 1 ? `/${site}/tours/${ids[0]}` : `/${site}/tours`);
        },
        () => undefined,
      );
  return (
    <Sheet
      open
      onClose={onClose}
      title={like ? `A tour like “${like.name}”` : "New tour"}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={!ready || begin.isPending} onClick={() => void go()}>
            {begin.isPending && of === "page"
              ? "Reading the page…"
              : of === "posts" && posts.length > 1
                ? `Begin ${posts.length} tours`
                : "Begin the tour"}
          </Button>
        </>
      }
    >
      {begin.error && !refusal?.field("address") && <Warning>{begin.error.message}</Warning>}
      <p className="mb-3 text-sm text-soft">
        {like
          ? "It takes that tour’s wordings, channels and dates, and lines of its own post."
          : "A tour shares one post again and again over weeks or months, each time with another sentence of it. Nothing is planned before you launch it."}
      </p>
      <div className="space-y-3">
        <Segments
          label="Of"
          options={[
            { value: "posts", name: "Posts" },
            { value: "page", name: "A page elsewhere" },
          ]}
          value={of}
          onChange={setOf}
        />
        {of === "page" ? (
          <TextField
            label="Address of the page"
            value={address}
            placeholder="https://"
            error={refusal?.field("address")}
            onChange={(e) => setAddress(e.target.value)}
          />
        ) : (
          <Posts site={site} posts={posts} onChange={setPosts} />
        )}
        {!like && <Template site={site} template={template} onChange={setTemplate} />}
      </div>
    </Sheet>
  );
}

function Posts({
  site,
  posts,
  onChange,
}: {
  site: string;
  posts: Post[];
  onChange: (posts: Post[]) => void;
}) {
  return (
    <div>
      {posts.length > 0 && (
        <ul className="mb-2 max-h-60 divide-y divide-line overflow-auto border-y border-line text-sm">
          {posts.map((p) => (
            <li key={p.id} className="flex items-center gap-2 py-0.5">
              <span className="min-w-0 flex-1 truncate">{p.title || "Untitled"}</span>
              <IconButton
                label={`Remove ${p.title || "the post"}`}
                onClick={() => onChange(posts.filter((one) => one.id !== p.id))}
              >
                <X size={14} />
              </IconButton>
            </li>
          ))}
        </ul>
      )}
      <PostChoice
        key={posts.length}
        site={site}
        label={posts.length === 0 ? "Post that is out" : "Another post"}
        onChange={(post) => posts.some((p) => p.id === post.id) || onChange([...posts, post])}
      />
      {posts.length > 1 && (
        <p className="mt-1 text-xs text-soft">
          Each gets a tour of its own. They begin some days apart, so that their stops take turns.
        </p>
      )}
    </div>
  );
}

type TemplateProps = { site: string; template: number; onChange: (template: number) => void };

/** In whose manner tours begin. */
function Template({ site, template, onChange }: TemplateProps) {
  const templates = useTemplates(site).data ?? [];
  const { forget } = useTourDeeds(site);
  if (templates.length === 0) return null;
  return (
    <div className="flex items-end gap-2">
      <div className="min-w-0 flex-1">
        <p className="mb-1 text-sm text-soft">Template</p>
        <Choice
          label="Template"
          value={template}
          options={[
            { value: 0, name: "none" },
            ...templates.map((t) => ({
              value: t.id,
              name: `${t.name} (${counted(t.stops, "stop")} in ${counted(t.days, "day")})`,
            })),
          ]}
          onChange={onChange}
        />
      </div>
      {template !== 0 && (
        <Button
          look="quiet"
          disabled={forget.isPending}
          onClick={() => {
            onChange(0);
            forget.mutate(template);
          }}
        >
          Delete this template
        </Button>
      )}
    </div>
  );
}
