import { useMutation } from "../../api/mutation";
import { useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../../api/client";
import { useRefresh } from "../../api/live";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import type { Post } from "./autosave";

/** Deletes a post of the bin for good, once its title was written by hand. */
export function DeleteForGood({ site, post }: { site: string; post: Post }) {
  const [open, setOpen] = useState(false);
  const [confirm, setConfirm] = useState("");
  const navigate = useNavigate();
  const refresh = useRefresh(site);
  const say = useSay();
  const remove = useMutation({
    mutationFn: () =>
      answer(
        api.DELETE("/api/v1/sites/{site}/posts/{id}", {
          params: { path: { site, id: post.id }, query: { version: post.version, confirm } },
        }),
      ),
    onSuccess: () => {
      say.done(`“${post.title}” is deleted.`);
      refresh("plan");
      void navigate(`/${site}/posts?stages=binned`, { replace: true });
    },
  });
  return (
    <>
      <Button look="quiet" onClick={() => setOpen(true)}>
        Delete for good…
      </Button>
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Delete for good"
        actions={
          <>
            <Button onClick={() => setOpen(false)}>Keep it in the bin</Button>
            <Button
              look="trouble"
              disabled={confirm.trim() !== post.title || remove.isPending}
              onClick={() => remove.mutate()}
            >
              Delete “{post.title.slice(0, 40)}”
            </Button>
          </>
        }
      >
        <div className="space-y-3">
          <p>
            “{post.title}” goes for good: its text, its addresses, what rules know of it and where it was
            shared. Its lines of the logbook stay. This cannot be undone.
          </p>
          {remove.error && <Warning>{remove.error.message}</Warning>}
          <TextField
            label="Type its title to confirm"
            value={confirm}
            autoComplete="off"
            onChange={(e) => setConfirm(e.target.value)}
          />
        </div>
      </Sheet>
    </>
  );
}
