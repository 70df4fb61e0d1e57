import { useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import { Refusal, type Schemas } from "../../api/client";
import { addDays, clock, hhmm, minutesOf } from "../../ui/civil";
import { isAhead, shownDate, siteToday } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { usePost } from "../post/post";
import { Clashes } from "./Clashes";
import { Parts } from "./Parts";
import { TimeOfEdit } from "./TimeOfEdit";
import { useEdit, useEditDeeds, type EditText, type WholeEdit } from "../revisions/timed";
import { Writing } from "./Writing";

/** A change of a post that is out, prepared for a time. */
export default function TimedEditScreen() {
  const { site = "", id = "" } = useParams();
  const [params] = useSearchParams();
  if (id === "new") return <NewEdit site={site} post={Number(params.get("post"))} />;
  return <OpenedEdit key={id} site={site} id={Number(id)} />;
}

function NewEdit({ site, post }: { site: string; post: number }) {
  const opened = usePost(site, post);
  // What the post says as the editing begins: what others change meanwhile is merged later.
  const [begun, setBegun] = useState<Schemas["Post"]>();
  if (!begun && opened.data) setBegun(opened.data);
  if (opened.error) return <Trouble error={opened.error} retry={() => void opened.refetch()} />;
  if (!begun) return <Waiting what="the post" />;
  return (
    <Editing
      site={site}
      post={begun.id}
      title={begun.title}
      version={begun.version}
      text={textOf(begun)}
      date={addDays(siteToday(), 1)}
      time="00:00"
      yearly={false}
    />
  );
}

function OpenedEdit({ site, id }: { site: string; id: number }) {
  const opened = useEdit(site, id);
  if (opened.error && !opened.data)
    return <Trouble error={opened.error} retry={() => void opened.refetch()} />;
  if (!opened.data) return <Waiting what="the edit" />;
  const e = opened.data;
  // One that is on hold needs another time, unless its own is still to come.
  const past = e.state === "held" && !isAhead(e.at);
  return (
    <Editing
      key={e.version}
      site={site}
      post={e.post}
      title={e.title}
      version={e.version}
      text={e.text}
      date={past ? addDays(siteToday(), 1) : e.at.date}
      time={hhmm(e.at.minute)}
      yearly={e.yearly}
      edit={e}
    />
  );
}

function textOf(p: Schemas["Post"]): EditText {
  const { title, body, excerpt, slug, categoryId, tags, fields, featured } = p;
  return { title, body, excerpt, slug, categoryId, tags, fields, featured };
}

type Props = {
  site: string;
  post: number;
  title: string;
  version: number;
  text: EditText;
  date: string;
  time: string;
  yearly: boolean;
  edit?: WholeEdit;
};

function Editing({ site, post, title, version, edit, ...begun }: Props) {
  const [text, setText] = useState(begun.text);
  const [when, setWhen] = useState({ date: begun.date, clock: begun.time, yearly: begun.yearly });
  const { prepare, save } = useEditDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const navigate = useNavigate();
  const failed = edit ? save.error : prepare.error;
  const wrong = (field: string) => (failed instanceof Refusal ? failed.field(field) : undefined);
  const change = (more: Partial<EditText>) => setText((now) => ({ ...now, ...more }));
  const over = edit && edit.state !== "waiting" && edit.state !== "held";

  async function keep() {
    const wish = { at: { date: when.date, clock: when.clock }, yearly: when.yearly, text };
    try {
      const done = edit
        ? await save.mutateAsync({ id: edit.id, version, ...wish })
        : await prepare.mutateAsync({ post, version, ...wish });
      tell(`It will change on ${shownDate(when.date)}, ${clock(minutesOf(when.clock))}.`);
      if (!edit) void navigate(`/${site}/edits/${done.id}`, { replace: true });
    } catch (error) {
      if (!(error instanceof Refusal)) return say.trouble(error);
      if (error.problem.status === 409)
        say.trouble(
          new Error(
            edit
              ? "Somebody changed this edit meanwhile. Copy what you wrote, and reload it."
              : "The post was changed meanwhile. Copy what you wrote, and begin again from what it says now.",
          ),
        );
      else if (!error.problem.errors?.length) say.trouble(error);
    }
  }

  return (
    <main className="mx-auto flex w-full max-w-400 min-w-0 flex-1 flex-col gap-x-8 gap-y-4 px-5 pt-3 pb-8 lg:flex-row">
      <section aria-label="Text" className="flex min-w-0 flex-1 flex-col">
        <p className="text-sm text-soft">
          A change of “{title}”, prepared. Until its time, readers see the post as it is now.
        </p>
        {edit?.state === "held" && <p className="mt-1 text-sm text-madder">{edit.why}</p>}
        {edit && edit.clashes.length > 0 && !over && (
          <div className="mt-3">
            <Clashes site={site} edit={edit} at={{ date: when.date, clock: when.clock }} />
          </div>
        )}
        <Writing site={site} text={text} wrong={wrong} onChange={change} />
      </section>
      <aside aria-label="About the edit" className="w-full shrink-0 space-y-4 pt-1 lg:w-68">
        <TimeOfEdit
          site={site}
          post={post}
          edit={edit}
          when={when}
          wrong={wrong}
          busy={prepare.isPending || save.isPending}
          onChange={(more) => setWhen((now) => ({ ...now, ...more }))}
          onKeep={() => void keep()}
        />
        <Parts site={site} text={text} wrong={wrong} onChange={change} />
      </aside>
    </main>
  );
}
