import type { FormEvent } from "react";
import { z } from "zod";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { dateIfAny } from "../../ui/schema";
import { useSay } from "../../ui/toast";
import { useFormOf } from "../../ui/useFormOf";
import { useTell } from "../logbook/useTell";
import { useBounds, type Post } from "./post";

const schema = z.object({ notBefore: dateIfAny, deadline: dateIfAny });

type Props = {
  site: string;
  post: Post;
  /** Done first; answers with the version to change. */
  before?: () => Promise<number>;
  onDone?: (saved: Post) => void;
};

/** What the form begins from: it is made anew where this changes, and not at each save of the post's text. */
export const boundsOf = ({ id, notBefore, deadline }: Post) =>
  `${id} ${notBefore?.date ?? ""} ${deadline?.date ?? ""}`;

/** When a draft may come out: not before a date, not after a deadline. Both are dates of the site. */
export function BoundsForm({ site, post, before, onDone }: Props) {
  const bounds = useBounds(site);
  const say = useSay();
  const tell = useTell(site);
  const form = useFormOf(schema, {
    notBefore: post.notBefore?.date ?? "",
    deadline: post.deadline?.date ?? "",
  });
  const wrong = bounds.error instanceof Refusal ? bounds.error : undefined;

  function submit(event: FormEvent) {
    event.preventDefault();
    form.submit(store);
  }

  function store({ notBefore, deadline }: z.infer<typeof schema>) {
    // By promise: the form is made anew for the dates that are saved, which may be here first.
    (before?.() ?? Promise.resolve(post.version))
      .then((version) =>
        bounds.mutateAsync({
          id: post.id,
          version,
          ...(notBefore ? { notBefore } : {}),
          ...(deadline ? { deadline } : {}),
        }),
      )
      .then((saved) => {
        onDone?.(saved);
        tell("Dates saved. The proposed slot follows them.");
      })
      .catch((error: unknown) => {
        if (!(error instanceof Refusal) || !error.problem.errors?.length) say.trouble(error);
      });
  }

  return (
    <form onSubmit={submit} className={onDone ? "" : "border-t border-line pt-3"}>
      <div className="space-y-2">
        <DateField
          label="Not before"
          optional
          placeholder="any"
          value={form.values.notBefore ?? ""}
          error={form.problem("notBefore") ?? wrong?.field("notBefore")}
          onChange={(notBefore) => form.set({ notBefore })}
        />
        <DateField
          label="Deadline"
          optional
          placeholder="none"
          value={form.values.deadline ?? ""}
          error={form.problem("deadline") ?? wrong?.field("deadline")}
          onChange={(deadline) => form.set({ deadline })}
        />
      </div>
      {form.changed && (
        <Button type="submit" className="mt-2" disabled={bounds.isPending}>
          Save dates
        </Button>
      )}
    </form>
  );
}
