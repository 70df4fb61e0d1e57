import { ImagePlus } from "lucide-react";
import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { DateField } from "../../ui/DateField";
import { TextField } from "../../ui/Field";
import { Segments } from "../../ui/Segments";
import { Sheet } from "../../ui/Sheet";
import { TextArea } from "../../ui/TextArea";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { ChannelTicks } from "../channels/ChannelTicks";
import { instantOf, soon, typedOf } from "../channels/moment";
import { SideBySide } from "../channels/SideBySide";
import { PicturePicker } from "../pictures/PicturePicker";
import { PostChoice } from "../rules/PostChoice";
import { bodyOf, isOpen, usePreparedDeeds, type Row } from "./prepared";

const subjects = [
  { value: "post", name: "A post" },
  { value: "link", name: "A link" },
  { value: "none", name: "Nothing" },
] as const;

const times = [
  { value: "opening", name: "At the next opening" },
  { value: "time", name: "At a time" },
] as const;

type Props = {
  site: string;
  row: Row;
  channels: { id: number; name: string }[];
  practice?: string | undefined;
  onClose: () => void;
};

/** All of one prepared message: what it says and is about, where and when it goes, and how each channel shows it. */
export function PreparedSheet({ site, row, channels, practice, onClose }: Props) {
  const [text, setText] = useState(row.text);
  const [subject, setSubject] = useState<(typeof subjects)[number]["value"]>(
    row.postId ? "post" : row.link || row.title ? "link" : "none",
  );
  const [post, setPost] = useState(row.postId ? { id: row.postId, title: row.postTitle ?? "" } : undefined);
  const [link, setLink] = useState(row.link ?? "");
  const [title, setTitle] = useState(row.title ?? "");
  const [picture, setPicture] = useState(
    row.pictureId ? { id: row.pictureId, alt: row.picture?.alt ?? "" } : undefined,
  );
  const [chosen, setChosen] = useState(row.channels);
  const [timed, setTimed] = useState<(typeof times)[number]["value"]>(row.at ? "time" : "opening");
  const [when, setWhen] = useState(() => (row.at ? typedOf(row.at) : soon()));
  const [choosing, setChoosing] = useState(false);
  const { save, sample } = usePreparedDeeds(site);
  const say = useSay();
  const open = isOpen(row);
  const at = timed === "time" ? instantOf(when) : undefined;
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const elsewhere = refusal?.field("id") ?? refusal?.field("channelId") ?? refusal?.field("pictureId");
  const postId = subject === "post" ? (post?.id ?? 0) : 0;
  const own = subject === "link" ? { link, title } : { link: "", title: "" };
  const draft = {
    postId,
    ...own,
    text,
    channels: chosen,
    ...(picture ? { picture: { from: "library", id: picture.id } } : {}),
  };
  const body = { ...bodyOf({ ...draft, pictureId: picture?.id ?? 0 }), ...(at ? { at } : {}) };
  const keep = () => save.mutateAsync({ ...body, id: row.id, version: row.version });

  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={open ? "Prepared message" : "Prepared message, released"}
      actions={
        <>
          {practice && (
            <Button
              className="mr-auto"
              disabled={sample.isPending || save.isPending || chosen.length === 0 || text.trim() === ""}
              onClick={() => {
                // What is on the screen is what is tried.
                const kept = open ? keep() : Promise.resolve();
                kept.then(() => sample.mutateAsync(row.id)).catch(() => undefined);
              }}
            >
              Send a sample
            </Button>
          )}
          <Button onClick={onClose}>{open ? "Cancel" : "Close"}</Button>
          {open && (
            <Button
              look="main"
              disabled={save.isPending || (timed === "time" && !at) || (subject === "post" && !post)}
              onClick={() =>
                void keep().then(
                  () => {
                    say.done("Saved.");
                    onClose();
                  },
                  () => undefined,
                )
              }
            >
              Save
            </Button>
          )}
        </>
      }
    >
      <div className="space-y-4">
        {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
        {elsewhere && <Warning>{elsewhere}</Warning>}
        {sample.error && <Warning>{sample.error.message}</Warning>}
        {sample.data && (
          <ul role="status" className="rounded-md border border-line bg-sheet px-3 py-2 text-sm">
            {sample.data.map((s) => (
              <li key={s.channel}>
                {s.channel}:{" "}
                {s.url ? (
                  <a href={s.url} target="_blank" rel="noreferrer" className="underline underline-offset-2">
                    see it on the practice wall
                  </a>
                ) : (
                  <span className="text-madder">{s.problem}</span>
                )}
              </li>
            ))}
          </ul>
        )}
        {!open && <p className="text-sm text-soft">To change it, untick Ready first.</p>}
        <fieldset disabled={!open} className="space-y-4">
          <TextArea
            label="Text"
            hint="Placeholders: {title} {excerpt} {link} {category} {author} {field:NAME} {one-of:LIST}"
            rows={3}
            value={text}
            error={refusal?.field("text")}
            onChange={(e) => setText(e.target.value)}
          />
          <div className="flex flex-wrap items-start gap-3">
            <div>
              <p className="text-sm text-soft">About</p>
              <Segments label="About" options={subjects} value={subject} onChange={setSubject} />
            </div>
            {subject === "post" && (
              <div className="min-w-72 flex-1">
                <PostChoice site={site} value={post} onChange={setPost} />
              </div>
            )}
            {subject === "link" && (
              <div className="grid min-w-72 flex-1 gap-3 sm:grid-cols-2">
                <TextField
                  label="Link, as {link}"
                  placeholder="https://"
                  value={link}
                  error={refusal?.field("link")}
                  onChange={(e) => setLink(e.target.value)}
                />
                <TextField
                  label="Title, as {title}"
                  value={title}
                  onChange={(e) => setTitle(e.target.value)}
                />
              </div>
            )}
          </div>
          <div className="flex flex-wrap items-start gap-3">
            <div>
              <p className="text-sm text-soft">Goes out</p>
              <Segments label="Goes out" options={times} value={timed} onChange={setTimed} />
            </div>
            {timed === "time" && (
              <>
                <div className="w-44">
                  <DateField
                    label="Date"
                    value={when.date}
                    error={refusal?.field("at")}
                    onChange={(date) => setWhen({ ...when, date })}
                  />
                </div>
                <TimeField label="Time" value={when.time} onChange={(time) => setWhen({ ...when, time })} />
              </>
            )}
            <div>
              <p className="text-sm text-soft">Channels</p>
              <ChannelTicks channels={channels} chosen={chosen} onChange={setChosen} />
            </div>
            <div>
              <p className="text-sm text-soft">Picture</p>
              <div className="flex items-center gap-2">
                <Button icon={<ImagePlus size={14} />} onClick={() => setChoosing(true)}>
                  {picture ? "Choose another…" : "Choose a picture…"}
                </Button>
                {picture && (
                  <Button look="quiet" onClick={() => setPicture(undefined)}>
                    Remove picture
                  </Button>
                )}
                {!picture && subject === "post" && <span className="text-sm text-soft">the post’s</span>}
              </div>
            </div>
          </div>
        </fieldset>
        <SideBySide site={site} draft={draft} />
      </div>
      <PicturePicker
        site={site}
        open={choosing}
        onClose={() => setChoosing(false)}
        onChoose={(p) => {
          setChoosing(false);
          setPicture({ id: p.id, alt: p.alt });
        }}
      />
    </Sheet>
  );
}
