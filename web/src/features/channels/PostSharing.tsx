import { useState } from "react";
import { z } from "zod";
import { Refusal } from "../../api/client";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { SaveButton } from "../../ui/SaveButton";
import { shownPlace } from "../../ui/siteClock";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import { TroubleHere, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { useFormOf } from "../../ui/useFormOf";
import { useTell } from "../logbook/useTell";
import {
  useChannels,
  useOutings,
  usePostSay,
  useSaveSay,
  type Channel,
  type Planned,
  type Say,
} from "./channels";
import { OutingSheet } from "./OutingSheet";
import { SayFields } from "./SayFields";
import { saySchema } from "./SiteSay";

type Props = {
  site: string;
  post: { id: number; title: string };
  /** Whether it has come out already. */
  out: boolean;
};

/** What is shared of one post: when it comes out, in which words, and what is planned. */
export function PostSharing({ site, post, out }: Props) {
  const channels = useChannels(site);
  const say = usePostSay(site, post.id);
  if (channels.error || say.error)
    return (
      <TroubleHere
        error={(channels.error ?? say.error)!}
        retry={() => {
          void channels.refetch();
          void say.refetch();
        }}
      />
    );
  if (!channels.data || !say.data) return <p className="text-sm text-soft">Loading…</p>;
  return (
    <div className="space-y-4">
      <PlannedOf site={site} post={post} />
      <SayForm
        key={say.data.token}
        site={site}
        post={post.id}
        saved={say.data}
        channels={channels.data.channels}
        out={out}
      />
    </div>
  );
}

/** The outings that are planned of a post. */
function PlannedOf({ site, post }: { site: string; post: { id: number; title: string } }) {
  const outings = useOutings(site);
  const [open, setOpen] = useState<Planned | "new">();
  const planned = (outings.data?.outings ?? []).filter((o) => o.postId === post.id);
  return (
    <div>
      <ul className="mb-1 divide-y divide-line empty:hidden">
        {planned.map((o) => (
          <li key={o.id} className="flex items-center gap-2 py-0.5 text-sm">
            <span className="min-w-0 flex-1">
              <span className="font-semibold">{shownPlace(o.place)}</span>{" "}
              <span className="text-soft">{o.channel}</span>
            </span>
            <Button look="quiet" onClick={() => setOpen(o)}>
              Change…
            </Button>
          </li>
        ))}
      </ul>
      <Button onClick={() => setOpen("new")}>Share it at a time…</Button>
      {open && (
        <OutingSheet
          site={site}
          {...(open === "new" ? { post } : { outing: open })}
          onClose={() => setOpen(undefined)}
        />
      )}
    </div>
  );
}

type FormProps = { site: string; post: number; saved: Say; channels: Channel[]; out: boolean };

function SayForm({ site, post, saved, channels, out }: FormProps) {
  const form = useFormOf(saySchema as z.ZodType<Say, Say>, saved);
  const { values, set } = form;
  const save = useSaveSay(site, post);
  const tell = useTell(site);
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const error = (f: string) => form.problem(f) ?? refusal?.field(f);
  const wordings = values.wordings ?? [];
  const setWordings = (next: typeof wordings) => set({ wordings: next });
  return (
    <div className="space-y-3">
      <Unsaved when={form.changed} what="what is shared of the post" />
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <div>
        <p className="mb-1 text-sm font-semibold">Its own words</p>
        <p className="mb-1 text-xs text-soft">Used for all its messages, in place of the rules’ wordings.</p>
        {wordings.map((w, i) => (
          // Wordings are told apart by their place.
          <div key={i} className="mb-1.5">
            <TextArea
              label={`Own words ${i + 1}`}
              hideLabel
              rows={2}
              value={w.text}
              error={error(`wordings[${i}]`)}
              onChange={(e) =>
                setWordings(wordings.map((o, j) => (j === i ? { ...o, text: e.target.value } : o)))
              }
            />
          </div>
        ))}
        <AddButton
          look="quiet"
          onAdd={() => setWordings([...wordings, { channelId: 0, text: "{title} {link}" }])}
        >
          Add own words
        </AddButton>
      </div>
      {!out && (
        <div>
          <Tick
            label="When it comes out, share it otherwise than the blog’s posts"
            on={values.own ?? false}
            onChange={(own) => set({ own })}
          />
          {values.own && (
            <div className="mt-2">
              <SayFields
                channels={channels}
                all={values.announcements}
                error={error}
                onChange={(announcements) => set({ announcements })}
              />
            </div>
          )}
        </div>
      )}
      {form.changed && (
        <SaveButton
          name="Save sharing"
          disabled={save.isPending}
          onSave={() =>
            form.submit((passed) =>
              save
                .mutateAsync({
                  own: passed.own ?? false,
                  announcements: passed.own ? passed.announcements : [],
                  wordings: (passed.wordings ?? []).filter((w) => w.text.trim() !== ""),
                  token: saved.token,
                })
                .then(
                  () => tell("Saved."),
                  () => undefined,
                ),
            )
          }
        />
      )}
    </div>
  );
}
