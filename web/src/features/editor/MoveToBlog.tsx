import { useMutation } from "../../api/mutation";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../../api/client";
import { useRefresh } from "../../api/live";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useSession } from "../session/session";
import type { Autosave, Post } from "./autosave";
import { saved } from "./deeds";

/** Moves a draft to another blog of the editor's. It is not there for who has no other. */
export function MoveToBlog({ site, autosave, post }: { site: string; autosave: Autosave; post: Post }) {
  const [open, setOpen] = useState(false);
  const others = (useSession().data?.sites ?? []).filter(
    (s) => s.slug !== site && !s.archived && (s.role === "owner" || s.role === "editor"),
  );
  const [blog, setBlog] = useState(others[0]?.slug ?? "");
  const navigate = useNavigate();
  const refresh = useRefresh(site);
  const say = useSay();
  const move = useMutation({
    mutationFn: async () => {
      const { id, version } = await saved(autosave);
      return answer(
        api.POST("/api/v1/sites/{site}/posts/{id}/move", {
          params: { path: { site, id } },
          body: { version, blog },
        }),
      );
    },
    onSuccess: (there) => {
      refresh("plan");
      say.done(
        `“${post.title || "Untitled"}” is a draft of ${others.find((s) => s.slug === blog)?.title} now.`,
      );
      void navigate(`/${there.blog}/write/${there.id}`);
    },
  });
  if (others.length === 0) return null;
  return (
    <>
      <Button look="quiet" onClick={() => setOpen(true)}>
        Move to another blog…
      </Button>
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Move to another blog"
        actions={
          <>
            <Button onClick={() => setOpen(false)}>Cancel</Button>
            <Button look="main" disabled={!blog || move.isPending} onClick={() => move.mutate()}>
              Move the draft
            </Button>
          </>
        }
      >
        {move.error && <Warning>{move.error.message}</Warning>}
        <p className="mb-3 text-sm text-soft">
          It begins there with all that is written, and goes into the bin of this blog, from where you can
          restore it. Its category stays if that blog has one of the same name, and its author if they work on
          that blog too. Its pictures stay in this blog’s library.
        </p>
        <Choice
          label="Blog"
          value={blog}
          options={others.map((s) => ({ value: s.slug, name: s.title }))}
          onChange={setBlog}
        />
      </Sheet>
    </>
  );
}
