import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { addDays } from "../../ui/civil";
import { Choice } from "../../ui/Choice";
import { DateField } from "../../ui/DateField";
import { shownMoment, shownPlace, siteToday } from "../../ui/siteClock";
import { Fold } from "../../ui/Fold";
import { TextArea } from "../../ui/TextArea";
import { Tick } from "../../ui/Tick";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { paragraphsOf, useRemarkDeeds, useRemarks, type Remark } from "./remarks";

type Props = { site: string; post: number; body: string; editor: boolean; comingOut: boolean };

/** The remarks about a post as a part of the editor's margin, which says how many are open. */
export function RemarksFold(props: Props) {
  const open = useRemarks(props.site, props.post).data?.filter((r) => !r.resolved).length ?? 0;
  return (
    <Fold title="Remarks" summary={open > 0 ? `${open} open` : "What you say to one another about it"}>
      <Remarks {...props} />
    </Fold>
  );
}

/** What the people of a blog say to one another about a post, and a place to say something. */
function Remarks({ site, post, body, editor, comingOut }: Props) {
  const remarks = useRemarks(site, post);
  const [all, setAll] = useState(false);
  if (remarks.error) return <Trouble error={remarks.error} />;
  if (remarks.isPending) return <p className="text-soft">Loading…</p>;
  const open = remarks.data.filter((r) => !r.resolved);
  const shown = all ? remarks.data : open;
  const resolved = remarks.data.length - open.length;
  return (
    <div className="space-y-3">
      {shown.length > 0 && (
        <ul className="divide-y divide-line">
          {shown.map((r) => (
            <One key={r.id} site={site} post={post} remark={r} body={body} editor={editor} />
          ))}
        </ul>
      )}
      {resolved > 0 && (
        <Button look="quiet" className="-ml-3" onClick={() => setAll(!all)}>
          {all ? "Hide what is resolved" : `Show ${resolved} resolved`}
        </Button>
      )}
      <Say site={site} post={post} body={body} asks={!editor && comingOut} />
    </div>
  );
}

type OneProps = { site: string; post: number; remark: Remark; body: string; editor: boolean };

function One({ site, post, remark: r, body, editor }: OneProps) {
  const deeds = useRemarkDeeds(site, post);
  const say = useSay();
  const asks = r.wish && !r.resolved;
  return (
    <li className={`py-2 ${r.resolved ? "text-soft" : ""}`}>
      <p className="text-xs text-soft">
        <span className="font-semibold">{r.by || "Somebody who is gone"}</span>, {shownMoment(r.at)}
      </p>
      {r.quote && (
        <p className="my-1 truncate border-l-2 border-strong pl-2 text-soft" title={r.quote}>
          {r.quote}
          {!body.includes(r.quote) && " (no longer in the text)"}
        </p>
      )}
      <p className="whitespace-pre-wrap wrap-anywhere">{r.body}</p>
      {r.wish && (
        <p>
          Asks for <span className="font-semibold">{shownPlace(r.wish)}</span>
          {r.answer && `: ${r.resolver} said ${r.answer}`}
        </p>
      )}
      {r.resolved && !r.answer && <p className="text-xs">Resolved by {r.resolver}</p>}
      <div className="mt-1 flex flex-wrap gap-2">
        {asks && editor && (
          <Answers site={site} post={post} remark={r.id} said={() => say.done("Answered.")} />
        )}
        {!asks && !r.answer && (
          <Button
            look="quiet"
            onClick={() =>
              deeds.resolve.mutate({ remark: r.id, resolved: !r.resolved }, { onError: say.trouble })
            }
          >
            {r.resolved ? "Reopen" : "Resolve"}
          </Button>
        )}
        {r.mine && (
          <Button look="quiet" onClick={() => deeds.remove.mutate(r.id, { onError: say.trouble })}>
            Delete
          </Button>
        )}
      </div>
    </li>
  );
}

type AnswersProps = { site: string; post: number; remark: number; said: () => void };

/** Yes or no to a request. */
export function Answers({ site, post, remark, said }: AnswersProps) {
  const { reply } = useRemarkDeeds(site, post);
  const say = useSay();
  const go = (yes: boolean) => reply.mutate({ remark, yes }, { onSuccess: said, onError: say.trouble });
  return (
    <>
      <Button disabled={reply.isPending} onClick={() => go(true)}>
        Yes, schedule it
      </Button>
      <Button look="quiet" disabled={reply.isPending} onClick={() => go(false)}>
        No
      </Button>
    </>
  );
}

function Say({ site, post, body, asks }: { site: string; post: number; body: string; asks: boolean }) {
  const { add } = useRemarkDeeds(site, post);
  const [text, setText] = useState("");
  const [quote, setQuote] = useState("");
  const [asking, setAsking] = useState(false);
  const [wish, setWish] = useState(() => ({ date: addDays(siteToday(), 1), time: "09:00" }));
  const refusal = add.error instanceof Refusal ? add.error : undefined;
  const paragraphs = paragraphsOf(body);
  return (
    <form
      className="space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate(
          { body: text, quote, ...(asking ? { wish } : {}) },
          {
            onSuccess: () => {
              setText("");
              setQuote("");
              setAsking(false);
            },
          },
        );
      }}
    >
      {add.error && !refusal?.problem.errors && <Warning>{add.error.message}</Warning>}
      <TextArea
        label="Remark"
        rows={2}
        value={text}
        error={refusal?.field("body")}
        onChange={(e) => setText(e.target.value)}
      />
      {paragraphs.length > 1 && (
        <Choice
          label="About"
          value={quote}
          options={[
            { value: "", name: "The whole post" },
            ...paragraphs.map((p) => ({ value: p.quote, name: p.name })),
          ]}
          onChange={setQuote}
        />
      )}
      {asks && <Tick label="Ask whether it may come out at a time" on={asking} onChange={setAsking} />}
      {asking && (
        <div className="flex items-start gap-2">
          <DateField
            label="Date"
            value={wish.date}
            error={refusal?.field("wish")}
            onChange={(date) => setWish({ ...wish, date })}
          />
          <TimeField label="Time" value={wish.time} onChange={(time) => setWish({ ...wish, time })} />
        </div>
      )}
      <Button type="submit" disabled={add.isPending || (text.trim() === "" && !asking)}>
        {asking ? "Ask" : "Add the remark"}
      </Button>
    </form>
  );
}
