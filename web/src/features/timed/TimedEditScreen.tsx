import { useState } from "react";
import { useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import { Refusal, type Schemas } from "../../api/client";
import { addDays, clock, hhmm, minutesOf } from "../../ui/civil";
import { same } from "../../ui/same";
import { isAhead, shownDate, siteToday } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { afterSave, Unsaved } from "../../ui/Unsaved";
import { changedSince } from "../../ui/useFormOf";
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
  const { key } = useLocation();
  const post = Number(params.get("post"));
  // An edit gets its number as it is prepared; its form stays as it is then.
  const [prepared, setPrepared] = useState({ id: "", key: "", post: 0 });
  const now = id === "new" ? { id: "", key, post } : prepared;
  if (id === "new" || prepared.id === id)
    return (
      <NewEdit
        key={now.key}
        site={site}
        post={now.post}
        id={Number(now.id)}
        onPrepared={(n) => setPrepared({ id: String(n), key, post })}
      />
    );
  return <OpenedEdit key={id} site={site} id={Number(id)} />;
}

type NewProps = { site: string; post: number; id: number; onPrepared: (id: number) => void };

/** An edit from its beginning on; its number is 0 until it is prepared. */
function NewEdit({ site, post, id, onPrepared }: NewProps) {
  const opened = usePost(site, post);
  const kept = useEdit(site, id).data;
  // What the post says as the editing begins: what others change meanwhile is merged later.
  const [begun, setBegun] = useState<Schemas["Post"]>();
  if (!begun && opened.data) setBegun(opened.data);
  if (opened.error && !begun) return <Trouble error={opened.error} retry={() => void opened.refetch()} />;
  if (!begun) return <Waiting what="the post" />;
  const from: Begun = kept
    ? begunOf(kept)
    : {
        version: begun.version,
        text: textOf(begun),
        date: addDays(siteToday(), 1),
        time: "00:00",
        yearly: false,
      };
  return (
    <Editing site={site} post={begun.id} title={begun.title} {...from} edit={kept} onPrepared={onPrepared} />
  );
}

function OpenedEdit({ site, id }: { site: string; id: number }) {
  const opened = useEdit(site, id);
  if (opened.error && !opened.data)
    return <Trouble error={opened.error} retry={() => void opened.refetch()} />;
  if (!opened.data) return <Waiting what="the edit" />;
  const e = opened.data;
  return <Editing site={site} post={e.post} title={e.title} {...begunOf(e)} edit={e} />;
}

/** What is begun with of a kept edit. One that is on hold needs another time, unless its own is still to come. */
function begunOf(e: WholeEdit): Begun {
  const past = e.state === "held" && !isAhead(e.at);
  return {
    version: e.version,
    text: e.text,
    date: past ? addDays(siteToday(), 1) : e.at.date,
    time: hhmm(e.at.minute),
    yearly: e.yearly,
  };
}

function textOf(p: Schemas["Post"]): EditText {
  const { title, body, excerpt, slug, categoryId, tags, fields, featured } = p;
  return { title, body, excerpt, slug, categoryId, tags, fields, featured };
}

/** What is edited: a text, and when it is to be said. */
type Begun = { version: number; text: EditText; date: string; time: string; yearly: boolean };

type Props = Begun & {
  site: string;
  post: number;
  title: string;
  edit: WholeEdit | undefined;
  onPrepared?: (id: number) => void;
};

/** What the fields show of what was begun with. */
const fieldsOf = ({ text, date, time, yearly }: Begun) => ({ text, when: { date, clock: time, yearly } });

function Editing({ site, post, title, edit, onPrepared, ...latest }: Props) {
  // What others save meanwhile is shown at once where nothing is written here, and else stays away from it.
  const [begun, setBegun] = useState<Begun>(latest);
  const [fields, setFields] = useState(() => fieldsOf(latest));
  const dirty = !same(fields, fieldsOf(begun));
  const overtaken = edit !== undefined && latest.version > begun.version;
  if (overtaken && !dirty) {
    setBegun(latest);
    setFields(fieldsOf(latest));
  }
  const { text, when } = fields;
  const { prepare, save } = useEditDeeds(site);
  const say = useSay();
  const tell = useTell(site);
  const navigate = useNavigate();
  const failed = edit ? save.error : prepare.error;
  const wrong = (field: string) => (failed instanceof Refusal ? failed.field(field) : undefined);
  const change = (more: Partial<EditText>) =>
    setFields((now) => ({ ...now, text: { ...now.text, ...more } }));
  const over = edit && edit.state !== "waiting" && edit.state !== "held";

  // What was settled here is nobody else's change. What is written of the text and not saved stays.
  function takeIn(settled: WholeEdit) {
    const kept = begunOf(settled);
    setBegun(kept);
    setFields((now) => (same(now.text, begun.text) ? fieldsOf(kept) : { ...fieldsOf(kept), text: now.text }));
  }

  async function keep() {
    const sent = fields;
    const wish = { at: { date: when.date, clock: when.clock }, yearly: when.yearly, text };
    try {
      const done = edit
        ? await save.mutateAsync({ id: edit.id, version: begun.version, ...wish })
        : await prepare.mutateAsync({ post, version: begun.version, ...wish });
      // What was saved is not unsaved any more; a new edit goes on at an address of its own.
      const kept = begunOf(done);
      const shown = fieldsOf(kept);
      setBegun(kept);
      // What was changed after it was sent stays, to be saved.
      setFields((now) => ({
        text: { ...shown.text, ...changedSince(now.text, sent.text) },
        when: { ...shown.when, ...changedSince(now.when, sent.when) },
      }));
      tell(`It will change on ${shownDate(when.date)}, ${clock(minutesOf(when.clock))}.`);
      if (edit) return;
      onPrepared?.(done.id);
      void navigate(`/${site}/edits/${done.id}`, { replace: true, state: afterSave });
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
        <Unsaved when={dirty && !over} what="this timed edit" />
        {overtaken && dirty && (
          <Warning>
            Somebody changed this edit meanwhile. Copy what you wrote, and open it again to see what it says
            now.
          </Warning>
        )}
        {edit?.state === "held" && <p className="mt-1 text-sm text-madder">{edit.why}</p>}
        {edit && edit.clashes.length > 0 && !over && (
          <div className="mt-3">
            <Clashes site={site} edit={edit} at={{ date: when.date, clock: when.clock }} onSettled={takeIn} />
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
          onChange={(more) => setFields((now) => ({ ...now, when: { ...now.when, ...more } }))}
          onKeep={() => void keep()}
        />
        <Parts site={site} text={text} version={begun.version} wrong={wrong} onChange={change} />
      </aside>
    </main>
  );
}
