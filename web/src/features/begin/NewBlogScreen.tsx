import { useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import type { FormEvent } from "react";
import { Link, useNavigate } from "react-router";
import { answer, api, Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Warning } from "../../ui/Trouble";
import { showWrong } from "../../ui/useFormOf";
import { TapeEdge } from "../session/Front";
import { useSession } from "../session/session";
import { useNewBlog } from "./begin";
import { BlogFields } from "./BlogFields";
import { StartChoice } from "./StartChoice";

/** An owner adds another blog. */
export default function NewBlogScreen() {
  const form = useNewBlog();
  const session = useSession();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const add = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/blogs", { body: form.blog })),
    onSuccess: async (site) => {
      await queries.invalidateQueries({ queryKey: ["session"] });
      await navigate(`/${site.slug}`);
    },
    onError: () => showWrong(),
  });
  const refusal = add.error instanceof Refusal ? add.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    add.mutate();
  }
  return (
    <main className="mx-auto w-full max-w-2xl px-4 pt-[6vh] pb-10">
      <h1 className="font-title text-2xl">Add a blog</h1>
      <TapeEdge />
      {session.data?.sites.length === 0 && (
        <p className="mb-4 text-soft">
          You are not on any blog yet. Ask an owner to invite you, or create one if there is none.
        </p>
      )}
      <form onSubmit={submit} noValidate>
        {add.error && !refusal?.problem.errors && <Warning>{add.error.message}</Warning>}
        <div className="max-w-sm space-y-4">
          <BlogFields form={form} error={(field) => refusal?.field(field)} />
        </div>
        <h2 className="mt-6 mb-2 text-base font-semibold">Its rhythm</h2>
        <StartChoice form={form} />
        <div className="mt-6 flex gap-2">
          <Button type="submit" look="main" disabled={add.isPending}>
            Create the blog
          </Button>
          <Link
            to="/"
            className="inline-flex h-8 items-center rounded-md border border-strong bg-sheet px-3 text-sm hover:border-ink"
          >
            Cancel
          </Link>
        </div>
      </form>
    </main>
  );
}
