import { Link, useParams, useSearchParams } from "react-router";
import { Part } from "../../ui/Part";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import { AsideOutings } from "./AsideOutings";
import { ChannelRow } from "./ChannelRow";
import { useChannels } from "./channels";
import { Connect } from "./Connect";
import { HandedOutings } from "./HandedOutings";
import { Lists } from "./Lists";
import { PlannedOutings } from "./PlannedOutings";
import { SiteSay } from "./SiteSay";

/** The accounts on networks that the blog's messages go to, and what is shared when a post comes out. */
export default function ChannelsScreen() {
  const { site = "" } = useParams();
  const channels = useChannels(site);
  const editor = usePlanner(site);
  const [said] = useSearchParams();
  if (channels.isPending) return <Waiting what="the channels" />;
  if (channels.error) return <Trouble error={channels.error} retry={() => void channels.refetch()} />;
  const { data } = channels;
  const connected = said.get("connected");
  const failed = said.get("failed");
  return (
    <main className="mx-auto w-full max-w-5xl px-5 pt-4 pb-12">
      <h1 className="mb-3 font-title text-2xl">Channels</h1>
      {failed && (
        <div className="mb-3">
          <Warning>{failed}</Warning>
        </div>
      )}
      {connected && !failed && (
        <p role="status" className="mb-3 rounded-md border border-line bg-sheet px-3 py-2 text-sm">
          <span className="font-semibold">{connected}</span> is connected.{" "}
          <Link to={`/${site}/rules/new/reshare`} className="underline underline-offset-2">
            Make a rule that shares on it
          </Link>
        </p>
      )}
      <AsideOutings site={site} editor={editor} />
      <HandedOutings site={site} editor={editor} />
      {data.channels.length === 0 ? (
        <p className="mb-3 rounded-md border border-dashed border-strong px-3 py-3 text-sm text-soft">
          Nothing is shared yet. Connect an account on a network below: you sign in there and allow it.
        </p>
      ) : (
        <ul aria-label="Your channels" className="mb-4 divide-y divide-line border-y border-line">
          {data.channels.map((c) => (
            <ChannelRow key={c.id} site={site} channel={c} blogs={data.blogs} editor={editor} />
          ))}
        </ul>
      )}
      {editor && (
        <Part
          title="Connect an account"
          hint="You sign in at the network and allow it there. Several accounts on one network are several channels."
        >
          <Connect site={site} networks={data.networks} />
        </Part>
      )}
      <Part title="When a post comes out" hint="Each post may say otherwise: in the editor, under Sharing.">
        <SiteSay key={data.say.token} site={site} say={data.say} channels={data.channels} editor={editor} />
      </Part>
      <Part
        title="Planned outings"
        hint="Messages that wait for their time. A post’s are planned in the editor, under Sharing."
      >
        <PlannedOutings site={site} editor={editor} />
      </Part>
      <Part title="Results" hint="What your messages brought: clicks by post, wording, hour and more.">
        <Link to={`/${site}/results`} className="text-sm underline underline-offset-2">
          Open the results
        </Link>
      </Part>
      <Part
        title="Prepared messages"
        hint="A table of messages that you write beforehand, or paste from a sheet, and release by ticking Ready."
      >
        <Link to={`/${site}/prepared`} className="text-sm underline underline-offset-2">
          Open the table
        </Link>
      </Part>
      {editor && (
        <Part title="Webhooks" hint="Other programs that are told what happens on this blog, as it happens.">
          <Link to={`/${site}/webhooks`} className="text-sm underline underline-offset-2">
            Open webhooks
          </Link>
        </Part>
      )}
      <Part
        title="Alternatives"
        hint="Lists of words or sentences. {one-of:NAME} in a wording takes one of them, another for each post."
      >
        <Lists site={site} lists={data.lists} editor={editor} />
      </Part>
    </main>
  );
}
