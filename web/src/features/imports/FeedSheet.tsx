import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Field, TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { LineView } from "./LineView";
import { useFeedDeeds, usePreviewFeed, type Feed, type FeedBody } from "./feeds";
import { useKeptSetups } from "./imports";

type Props = { site: string; feed: Feed | undefined; onClose: () => void };

const intervals = [
  { value: 15, name: "every 15 minutes" },
  { value: 60, name: "every hour" },
  { value: 360, name: "every 6 hours" },
  { value: 1440, name: "every day" },
  { value: 10080, name: "every week" },
];

const becoming = [
  { value: "drafts", name: "drafts" },
  { value: "shelf", name: "posts on the shelf" },
  { value: "placed", name: "scheduled posts, by the rhythm" },
  { value: "links", name: "link items, for rules to share" },
  { value: "messages", name: "prepared messages with a link, to share" },
];

/** A feed, new or to be changed, with what its newest items would become. */
export function FeedSheet({ site, feed, onClose }: Props) {
  const say = useSay();
  const { save, remove } = useFeedDeeds(site);
  const preview = usePreviewFeed(site);
  const kept = useKeptSetups(site);
  const [taken, setTaken] = useState("");
  const [body, setBody] = useState<FeedBody>(() => beginning(feed));
  const set = (change: Partial<FeedBody>) => setBody((b) => ({ ...b, ...change }));
  const refusal = [save.error, preview.error].find((e) => e instanceof Refusal);
  const wrong = (field: string) => (refusal instanceof Refusal ? refusal.field(field) : undefined);
  const as = body.becomes !== "posts" ? body.becomes : (body.setup?.landing?.as ?? "drafts");
  const known = intervals.some((i) => i.value === body.minutes);
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={feed ? feed.name : "Add a feed"}
      actions={
        <>
          {feed && (
            <Button
              look="quiet"
              className="mr-auto"
              onClick={() => remove.mutate(feed.id, { onSuccess: onClose, onError: say.trouble })}
            >
              Delete the feed; what it brought stays
            </Button>
          )}
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={save.isPending}
            onClick={() =>
              save.mutate(
                { feed, body },
                { onSuccess: onClose, onError: (e) => wrongless(e) && say.trouble(e) },
              )
            }
          >
            {feed ? "Save" : "Add the feed"}
          </Button>
        </>
      }
    >
      <div className="space-y-3">
        <div className="flex items-end gap-2">
          <div className="min-w-0 flex-1">
            <TextField
              label="Address"
              placeholder="https://…"
              value={body.address}
              error={wrong("address")}
              onChange={(e) => set({ address: e.target.value })}
            />
          </div>
          <Button
            disabled={preview.isPending || !body.address.trim()}
            onClick={() =>
              preview.mutate(body, {
                onSuccess: ({ title }) => !body.name && set({ name: title.slice(0, 120) }),
              })
            }
          >
            {preview.isPending ? "Loading…" : "Show its items"}
          </Button>
        </div>
        <div className="flex flex-wrap items-start gap-3">
          <div className="w-64">
            <TextField
              label="Name"
              value={body.name}
              error={wrong("name")}
              onChange={(e) => set({ name: e.target.value })}
            />
          </div>
          <div className="w-44">
            <Field label="Look for new items" error={wrong("minutes")}>
              <Choice
                label="Look for new items"
                value={body.minutes}
                options={
                  known
                    ? intervals
                    : [...intervals, { value: body.minutes, name: `every ${body.minutes} minutes` }]
                }
                onChange={(minutes) => set({ minutes })}
              />
            </Field>
          </div>
          <div className="w-72">
            <Field label="New items become">
              <Choice
                label="New items become"
                value={as}
                options={becoming}
                onChange={(to) =>
                  set({
                    becomes: to === "messages" || to === "links" ? to : "posts",
                    setup: {
                      ...body.setup,
                      landing: { ...body.setup?.landing, as: to === "messages" ? undefined : to },
                    },
                  })
                }
              />
            </Field>
          </div>
          {(kept.data?.setups.length ?? 0) > 0 && (
            <div className="w-64">
              <Field
                label="What happens on the way"
                hint="Words, cleaning, links and pictures of a setup that you saved."
              >
                <Choice
                  label="What happens on the way"
                  value={taken}
                  options={[
                    { value: "", name: feed ? "as it is" : "nothing" },
                    ...(kept.data?.setups ?? []).map((s) => ({ value: s.name, name: s.name })),
                  ]}
                  onChange={(name) => {
                    setTaken(name);
                    const found = kept.data?.setups.find((s) => s.name === name);
                    if (found) set({ setup: { ...body.setup, recipe: { ...found.setup.recipe, fill: {} } } });
                  }}
                />
              </Field>
            </div>
          )}
        </div>
        {!feed && (
          <Tick
            label="Also the items that are there now"
            on={body.existing ?? false}
            onChange={(existing) => set({ existing })}
          />
        )}
        {feed && <Tick label="Pause" on={body.paused ?? false} onChange={(paused) => set({ paused })} />}
        {refusal && !refusal.problem.errors && <Warning>{refusal.message}</Warning>}
        {preview.data && (
          <ol aria-label="Its newest items" className="space-y-3 border-t border-line pt-3">
            {preview.data.lines.map((l) => (
              <li key={l.nr}>
                <LineView line={l} />
              </li>
            ))}
          </ol>
        )}
      </div>
    </Sheet>
  );
}

function beginning(feed: Feed | undefined): FeedBody {
  if (!feed) return { name: "", address: "", minutes: 60, becomes: "posts", setup: {} };
  const { name, address, minutes, existing, becomes, setup, paused } = feed;
  return { name, address, minutes, existing, becomes, setup, paused };
}

/** Whether an error names no field, and is told elsewhere. */
const wrongless = (error: unknown) => !(error instanceof Refusal && error.problem.errors);
