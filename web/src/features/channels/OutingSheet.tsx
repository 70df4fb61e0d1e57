import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { TimeField } from "../../ui/TimeField";
import { Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { ChannelTicks } from "./ChannelTicks";
import { useChannels, useOutingDeeds, type Planned } from "./channels";
import { instantOf, soon, typedOf } from "./moment";
import { SideBySide } from "./SideBySide";

type Props = {
  site: string;
  /** The outing that is changed; a new one otherwise. */
  outing?: Planned;
  /** Of a new one: the post that it is about; a message of its own otherwise. */
  post?: { id: number; title: string };
  onClose: () => void;
};

/** An outing planned by hand: what it says, on which channels, and when. */
export function OutingSheet({ site, outing, post, onClose }: Props) {
  const channels = useChannels(site).data?.channels ?? [];
  const [chosen, setChosen] = useState<number[]>(outing ? [outing.channelId] : []);
  const [text, setText] = useState(outing?.text ?? (post ? "{title} {link}" : ""));
  const [link, setLink] = useState(outing?.link ?? "");
  const [title, setTitle] = useState(outing?.title ?? "");
  const [when, setWhen] = useState(() =>
    outing && outing.state === "planned" ? typedOf(outing.at) : soon(),
  );
  const { plan, save } = useOutingDeeds(site);
  const tell = useTell(site);
  const trouble = plan.error ?? save.error;
  const refusal = trouble instanceof Refusal ? trouble : undefined;
  const postId = outing?.postId ?? post?.id ?? 0;
  const at = instantOf(when);
  const body = { postId, text, at: at ?? "", ...(postId === 0 ? { link, title } : {}) };
  const name = post?.title || outing?.postTitle;

  function go() {
    const done = () => {
      tell(outing ? "The outing is changed." : "Planned.");
      onClose();
    };
    const [channelId = 0, ...also] = chosen;
    const doing = outing
      ? save.mutateAsync({
          ...body,
          id: outing.id,
          version: outing.version,
          channelId,
          pictures: outing.pictures ?? [],
          picture: outing.picture ?? {},
          parentId: outing.parentId ?? 0,
          replyText: outing.replyText ?? "",
          replyAfter: outing.replyAfter ?? 0,
        })
      : plan.mutateAsync({ ...body, channelId, also });
    doing.then(done, () => undefined);
  }

  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={outing ? "Change an outing" : name ? "Share a post" : "Share a message"}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={!at || chosen.length === 0 || text.trim() === "" || plan.isPending || save.isPending}
            onClick={go}
          >
            {outing ? "Save" : chosen.length > 1 ? `Plan ${chosen.length} outings` : "Plan it"}
          </Button>
        </>
      }
    >
      <div className="space-y-4">
        {trouble && !refusal?.problem.errors && <Warning>{trouble.message}</Warning>}
        {name && (
          <p className="text-sm">
            <span className="text-soft">About</span> <span className="font-semibold">{name}</span>
          </p>
        )}
        <div className="flex flex-wrap items-start gap-3">
          <div className="w-44">
            <DateField
              label="Date"
              value={when.date}
              error={refusal?.field("at")}
              onChange={(date) => setWhen({ ...when, date })}
            />
          </div>
          <TimeField label="Time" value={when.time} onChange={(time) => setWhen({ ...when, time })} />
          <div>
            <p className="text-sm text-soft">{outing ? "Channel" : "Channels"}</p>
            <ChannelTicks
              channels={channels}
              chosen={chosen}
              onChange={(next) => setChosen(outing ? next.slice(-1) : next)}
            />
          </div>
        </div>
        {postId === 0 && (
          <div className="grid gap-3 sm:grid-cols-2">
            <TextField
              label="Link, as {link}"
              placeholder="https://"
              value={link}
              error={refusal?.field("link")}
              onChange={(e) => setLink(e.target.value)}
            />
            <TextField label="Title, as {title}" value={title} onChange={(e) => setTitle(e.target.value)} />
          </div>
        )}
        <TextArea
          label="Text"
          hint="Placeholders: {title} {excerpt} {link} {category} {author} {line} {field:NAME} {one-of:LIST}"
          rows={3}
          value={text}
          error={refusal?.field("text")}
          onChange={(e) => setText(e.target.value)}
        />
        <SideBySide
          site={site}
          draft={{ postId, text, channels: chosen, ...(postId === 0 ? { link, title } : {}) }}
        />
      </div>
    </Sheet>
  );
}
