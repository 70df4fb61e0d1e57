import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { NumberField } from "../../ui/NumberField";
import { Segments } from "../../ui/Segments";
import { TextField } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { TimeField } from "../../ui/TimeField";
import { Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { ChannelTicks } from "./ChannelTicks";
import { MessagePicture } from "./MessagePicture";
import { useChannels, useOutingDeeds, type Planned } from "./channels";
import { instantOf, soon, typedOf } from "./moment";
import { SideBySide } from "./SideBySide";

const ways = [
  { value: "once", name: "Once" },
  { value: "now", name: "Now" },
  { value: "several", name: "Several times" },
] as const;

/** The same, of a selection of posts. */
const waysOfSeveral = [
  { value: "several", name: "Over some days" },
  { value: "once", name: "From one time on" },
  { value: "now", name: "From now on" },
] as const;

type Props = {
  site: string;
  /** The outing that is changed; a new one otherwise. */
  outing?: Planned;
  /** Of a new one: the post that it is about; a message of its own otherwise. */
  post?: { id: number; title: string };
  /** Of new ones: the posts that take turns. */
  posts?: { id: number; title: string }[];
  onClose: () => void;
};

/** An outing planned by hand: what it says, on which channels, and when. */
export function OutingSheet({ site, outing, post: single, posts, onClose }: Props) {
  const post = single ?? posts?.[0];
  const among = posts?.length ?? 1;
  const channels = useChannels(site).data?.channels ?? [];
  const [chosen, setChosen] = useState<number[]>(outing ? [outing.channelId] : []);
  const [text, setText] = useState(outing?.text ?? (post ? "{title} {link}" : ""));
  const [link, setLink] = useState(outing?.link ?? "");
  const [title, setTitle] = useState(outing?.title ?? "");
  const [when, setWhen] = useState(() =>
    outing && outing.state === "planned" ? typedOf(outing.at) : soon(),
  );
  const [way, setWay] = useState<(typeof ways)[number]["value"]>(posts ? "several" : "once");
  const [picture, setPicture] = useState<{ from?: string; id?: number }>(() => {
    const [chosen] = outing?.pictures ?? [];
    return chosen ? { from: "library", id: chosen } : (outing?.picture ?? {});
  });
  const [picked, setPicked] = useState(false);
  const [times, setTimes] = useState(posts ? 1 : 3);
  const [days, setDays] = useState(14);
  const { plan, save } = useOutingDeeds(site);
  const tell = useTell(site);
  const trouble = plan.error ?? save.error;
  const refusal = trouble instanceof Refusal ? trouble : undefined;
  // Of what has no field here.
  const elsewhere = refusal?.field("channelId") ?? refusal?.field("postId");
  const postId = outing?.postId ?? post?.id ?? 0;
  const at = instantOf(when);
  const several = way === "several";
  const count = chosen.length * among * (several ? times : 1);
  const least = posts ? 1 : 2;
  const counted = !several || (times >= least && times <= 50 && days >= 1 && days <= 365);
  const body = { postId, text, at: at ?? "", ...(postId === 0 ? { link, title } : {}) };
  // A picture of the library is said by its id; the others by where they are.
  const along =
    outing && !picked
      ? { pictures: outing.pictures ?? [], picture: outing.picture ?? {} }
      : picture.from === "library" && picture.id
        ? { pictures: [picture.id], picture: {} }
        : { pictures: [], picture: { from: picture.from ?? "" } };
  const name = post?.title || outing?.postTitle;

  function go() {
    const done = () => {
      tell(outing ? "The outing is changed." : way === "now" ? "It goes out within a minute." : "Planned.");
      onClose();
    };
    const [channelId = 0, ...also] = chosen;
    const doing = outing
      ? save.mutateAsync({
          ...body,
          id: outing.id,
          version: outing.version,
          channelId,
          ...along,
          parentId: outing.parentId ?? 0,
          replyText: outing.replyText ?? "",
          replyAfter: outing.replyAfter ?? 0,
        })
      : plan.mutateAsync({
          ...body,
          channelId,
          also,
          ...along,
          now: way === "now",
          ...(posts ? { posts: posts.map((p) => p.id) } : {}),
          ...(several ? { times, days } : {}),
        });
    doing.then(done, () => undefined);
  }

  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={
        outing
          ? "Change an outing"
          : posts
            ? `Share ${among === 1 ? "1 post" : `${among} posts`}`
            : name
              ? "Share a post"
              : "Share a message"
      }
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            look="main"
            disabled={
              !at || !counted || chosen.length === 0 || text.trim() === "" || plan.isPending || save.isPending
            }
            onClick={go}
          >
            {outing ? "Save" : way === "now" ? "Send now" : count > 1 ? `Plan ${count} outings` : "Plan it"}
          </Button>
        </>
      }
    >
      <div className="space-y-4">
        {trouble && !refusal?.problem.errors && <Warning>{trouble.message}</Warning>}
        {elsewhere && <Warning>{elsewhere}</Warning>}
        {name && (
          <p className="text-sm">
            <span className="text-soft">About</span> <span className="font-semibold">{name}</span>
            {among > 1 && (
              <span className="text-soft">
                {" "}
                and {among === 2 ? "1 other" : `${among - 1} others`}, in turn
              </span>
            )}
          </p>
        )}
        {!outing && (
          <Segments label="How often" options={posts ? waysOfSeveral : ways} value={way} onChange={setWay} />
        )}
        <div className="flex flex-wrap items-start gap-3">
          {way !== "now" && (
            <>
              <div className="w-44">
                <DateField
                  label={several ? "First on" : "Date"}
                  value={when.date}
                  error={refusal?.field("at")}
                  onChange={(date) => setWhen({ ...when, date })}
                />
              </div>
              <TimeField label="Time" value={when.time} onChange={(time) => setWhen({ ...when, time })} />
            </>
          )}
          {several && (
            <>
              <div className="w-20">
                <NumberField
                  label={posts ? "Times each" : "Times"}
                  value={times}
                  error={times > 50 || times < least ? `From ${least} to 50.` : refusal?.field("times")}
                  onChange={setTimes}
                />
              </div>
              <div className="w-24">
                <NumberField
                  label="Within days"
                  value={days}
                  error={days > 365 || days < 1 ? "From 1 to 365." : refusal?.field("days")}
                  onChange={setDays}
                />
              </div>
            </>
          )}
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
        <div>
          <p className="text-sm text-soft">Picture</p>
          <MessagePicture
            site={site}
            ofPost={postId !== 0}
            value={picture}
            onChange={(next) => {
              setPicture(next);
              setPicked(true);
            }}
          />
        </div>
        <SideBySide
          site={site}
          draft={{ postId, text, picture, channels: chosen, ...(postId === 0 ? { link, title } : {}) }}
        />
      </div>
    </Sheet>
  );
}
