import { Link2 } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useMutation } from "../../api/mutation";
import { answer, api, Refusal } from "../../api/client";
import { useRefresh } from "../../api/live";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";

/** Says what link items are, and adds one. */
export function AddLinkItem({ site }: { site: string }) {
  const [open, setOpen] = useState(false);
  return (
    <div className="mb-2 flex flex-wrap items-center gap-x-4 gap-y-1">
      <p className="min-w-0 flex-1 text-sm text-soft">
        Pages elsewhere, with a title and a link, that your rules share. They have no page on the blog.
      </p>
      <Button icon={<Link2 size={14} />} onClick={() => setOpen(true)}>
        Add a link item…
      </Button>
      {open && <LinkItemSheet site={site} onClose={() => setOpen(false)} />}
    </div>
  );
}

function LinkItemSheet({ site, onClose }: { site: string; onClose: () => void }) {
  const say = useSay();
  const navigate = useNavigate();
  const refresh = useRefresh(site);
  const [title, setTitle] = useState("");
  const [link, setLink] = useState("");
  const add = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/link-items", {
          params: { path: { site } },
          body: { title, link: link.trim() },
        }),
      ),
    onSuccess: (item) => {
      refresh("plan");
      void navigate(`/${site}/write/${item.id}`);
    },
    onError: (error) => (error instanceof Refusal && error.problem.errors ? undefined : say.trouble(error)),
  });
  const wrong = (field: string) => (add.error instanceof Refusal ? add.error.field(field) : undefined);
  return (
    <Sheet
      open
      onClose={onClose}
      title="Add a link item"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={add.isPending} onClick={() => add.mutate()}>
            Add
          </Button>
        </>
      }
    >
      <div className="space-y-3">
        <TextField
          label="Title"
          hint="What messages show for {title}."
          value={title}
          error={wrong("title")}
          onChange={(e) => setTitle(e.target.value)}
        />
        <TextField
          label="Link"
          placeholder="https://…"
          value={link}
          error={wrong("link")}
          onChange={(e) => setLink(e.target.value)}
        />
      </div>
    </Sheet>
  );
}
