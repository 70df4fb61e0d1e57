import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { Warning } from "../../ui/Trouble";
import { useChannelDeeds, type Channel, type Channels } from "./channels";

type Props = { site: string; channel: Channel; blogs: Channels["blogs"]; onClose: () => void };

/** Connects a channel's account to another blog too. */
export function CopyChannel({ site, channel, blogs, onClose }: Props) {
  const { copy } = useChannelDeeds(site);
  const [blog, setBlog] = useState(blogs[0]?.slug ?? "");
  const [rules, setRules] = useState(true);
  const title = blogs.find((b) => b.slug === blog)?.title ?? "";
  const done = copy.data;
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Copy ${channel.name} to another blog`}
      actions={
        <>
          <Button onClick={onClose}>{done ? "Close" : "Cancel"}</Button>
          {!done && (
            <Button
              look="main"
              disabled={copy.isPending}
              onClick={() => copy.mutate({ id: channel.id, blog, rules })}
            >
              Copy to “{title}”
            </Button>
          )}
        </>
      }
    >
      {copy.error && <Warning>{copy.error.message}</Warning>}
      {done ? (
        <p className="text-sm">
          {channel.name} is a channel of “{title}” now
          {done.rules > 0 &&
            `, with ${done.rules === 1 ? "1 rule" : `${done.rules} rules`}, turned off`}.{" "}
          <Link to={`/${done.blog}/channels`} className="underline underline-offset-2">
            Open its channels
          </Link>
        </p>
      ) : (
        <div className="max-w-sm space-y-3">
          <Field label="Blog">
            <Choice
              label="Blog"
              value={blog}
              options={blogs.map((b) => ({ value: b.slug, name: b.title }))}
              onChange={setBlog}
            />
          </Field>
          <Tick label="With its rules, turned off until you look at them" on={rules} onChange={setRules} />
          <p className="text-xs text-soft">
            It posts as @{channel.handle || channel.name} from there, too, with the same limits and habits.
          </p>
        </div>
      )}
    </Sheet>
  );
}
