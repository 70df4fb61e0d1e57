import { Trash2 } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { NumberField } from "../../ui/NumberField";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import type { Announcement, Channel } from "./channels";

const pictures = [
  { value: "featured", name: "the featured image" },
  { value: "text", name: "the first picture in the text" },
  { value: "none", name: "no picture" },
];

type Props = {
  channels: Channel[];
  all: Announcement[];
  error: (field: string) => string | undefined;
  onChange: (all: Announcement[]) => void;
};

/** The messages that follow when a post comes out, one a channel. */
export function SayFields({ channels, all, error, onChange }: Props) {
  const put = (i: number, change: Partial<Announcement>) =>
    onChange(all.map((a, j) => (j === i ? { ...a, ...change } : a)));
  return (
    <div className="space-y-3">
      {all.length === 0 && <p className="text-sm text-soft">Nothing is shared by itself.</p>}
      {all.map((a, i) => {
        const channel = channels.find((c) => c.id === a.channelId);
        const at = (field: string) => error(`announcements[${i}].${field}`);
        const tags = a.hashtags ?? [];
        return (
          // Messages are told apart by their place while they are being written.
          <fieldset key={i} className="rounded-md border border-line bg-sheet px-3 py-2.5">
            <legend className="sr-only">Message {i + 1}</legend>
            <div className="mb-2 flex flex-wrap items-start gap-x-3 gap-y-2">
              <div className="w-44">
                <Choice
                  label="Channel"
                  value={a.channelId}
                  options={channels.map((c) => ({ value: c.id, name: c.name }))}
                  onChange={(channelId) => put(i, { channelId })}
                />
              </div>
              <NumberField
                label="Minutes after the post"
                hideLabel
                className="w-18! text-center"
                value={a.after ?? 0}
                error={at("after")}
                onChange={(after) => put(i, { after })}
              />
              <span className="pt-1.5 text-sm text-soft">min after the post comes out</span>
              <IconButton
                label={`Remove message ${i + 1}`}
                className="ml-auto"
                onClick={() => onChange(all.filter((_, j) => j !== i))}
              >
                <Trash2 size={15} />
              </IconButton>
            </div>
            <TextArea
              label={`Text of message ${i + 1}`}
              hideLabel
              rows={Math.min(Math.max(2, a.text.split("\n").length), 8)}
              value={a.text}
              error={at("text") ?? at("channelId")}
              onChange={(e) => put(i, { text: e.target.value })}
            />
            <div className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1.5">
              {channel?.image !== "none" && (
                <div className="w-52">
                  <Choice
                    label="Picture"
                    value={a.picture || "featured"}
                    options={pictures}
                    onChange={(picture) => put(i, { picture })}
                  />
                </div>
              )}
              {(channel?.hashtags ?? 0) > 0 &&
                [
                  { of: "category", name: "Hashtag of the category" },
                  { of: "tags", name: "of its tags" },
                ].map((h) => (
                  <Tick
                    key={h.of}
                    label={h.name}
                    on={tags.includes(h.of)}
                    onChange={(on) =>
                      put(i, { hashtags: on ? [...tags, h.of] : tags.filter((t) => t !== h.of) })
                    }
                  />
                ))}
            </div>
            {at("picture") && (
              <p role="alert" className="mt-1 text-xs text-madder">
                {at("picture")}
              </p>
            )}
            {channel?.replies && (
              <ReplyFields
                text={a.replyText ?? ""}
                after={a.replyAfter ?? 5}
                error={(f) => at(f)}
                onChange={(replyText, replyAfter) => put(i, { replyText, replyAfter })}
              />
            )}
          </fieldset>
        );
      })}
      {channels.length > 0 && (
        <AddButton
          onAdd={() =>
            onChange([
              ...all,
              {
                channelId:
                  channels.find((c) => !all.some((a) => a.channelId === c.id))?.id ?? channels[0]!.id,
                after: 0,
                text: "{title} {link}",
                hashtags: [],
                picture: "featured",
                replyText: "",
                replyAfter: 5,
              },
            ])
          }
        >
          Add a message
        </AddButton>
      )}
    </div>
  );
}

type ReplyProps = {
  text: string;
  after: number;
  error: (field: "replyText" | "replyAfter") => string | undefined;
  onChange: (text: string, after: number) => void;
};

/** A reply that follows under a message, if there is to be one. */
export function ReplyFields({ text, after, error, onChange }: ReplyProps) {
  const on = text !== "";
  return (
    <div className="mt-2">
      <Tick
        label="Follow it with a reply"
        on={on}
        onChange={(yes) => onChange(yes ? "Read on: {link}" : "", after)}
      />
      {on && (
        <div className="mt-1.5 flex items-start gap-2">
          <NumberField
            label="Minutes until the reply"
            hideLabel
            className="w-16! text-center"
            value={after}
            error={error("replyAfter")}
            onChange={(n) => onChange(text, n)}
          />
          <span className="pt-1.5 text-sm whitespace-nowrap text-soft">min later</span>
          <div className="min-w-0 flex-1">
            <TextArea
              label="Text of the reply"
              hideLabel
              rows={2}
              value={text}
              error={error("replyText")}
              onChange={(e) => onChange(e.target.value, after)}
            />
          </div>
        </div>
      )}
    </div>
  );
}
