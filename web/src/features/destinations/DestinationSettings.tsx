import { useState } from "react";
import { Link } from "react-router";
import { Refusal } from "../../api/client";
import { AddButton } from "../../ui/AddButton";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { MovedOn } from "../../ui/MovedOn";
import { Part } from "../../ui/Part";
import { SaveButton } from "../../ui/SaveButton";
import { anything } from "../../ui/schema";
import { shownPlace } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { useKept } from "../../ui/useKept";
import { Waiting } from "../../ui/Waiting";
import { useTell } from "../logbook/useTell";
import { usePlanner } from "../session/session";
import { DestinationRow } from "./DestinationRow";
import { DestinationSheet } from "./DestinationSheet";
import { useDestinationDeeds, useDestinations, type Destination, type Destinations } from "./destinations";

/** Where the posts of a blog go: its built-in pages, folders, sites of one's own. */
export function DestinationSettings({ site }: { site: string }) {
  const all = useDestinations(site);
  if (all.isPending) return <Waiting what="where posts go" />;
  if (all.error) return <Trouble error={all.error} retry={() => void all.refetch()} />;
  const reload = () => all.refetch({ throwOnError: true }).then((read) => read.data);
  return <Settings site={site} all={all.data} reload={reload} />;
}

type Props = { site: string; all: Destinations; reload: () => Promise<Destinations | undefined> };

function Settings({ site, all, reload }: Props) {
  const editor = usePlanner(site);
  const [editing, setEditing] = useState<Destination | Destination["kind"]>();
  const canAddSite = all.sites.length > 0;
  return (
    <>
      <Pages key={site} site={site} all={all} reload={reload} />
      <Part
        title="Elsewhere"
        hint="Each post also goes to these places when it comes out, and follows there when it changes, comes out again or is removed."
      >
        {all.destinations.length === 0 ? (
          <p className="mb-3 rounded-md border border-dashed border-strong px-3 py-3 text-sm text-soft">
            Posts go nowhere else yet. Add a folder for a static site generator, or a site of your own that
            takes posts by Micropub.
          </p>
        ) : (
          <ul aria-label="Where posts go" className="mb-3 divide-y divide-line border-y border-line">
            {all.destinations.map((d) => (
              <DestinationRow key={d.id} site={site} destination={d} onEdit={() => setEditing(d)} />
            ))}
          </ul>
        )}
        {editor && (
          <div className="flex flex-wrap items-center gap-2">
            {all.folders && <AddButton onAdd={() => setEditing("folder")}>Add a folder</AddButton>}
            {canAddSite && <AddButton onAdd={() => setEditing("micropub")}>Add a site</AddButton>}
          </div>
        )}
        {editor && !canAddSite && (
          <p className="mt-2 text-xs text-soft">
            To add a site of your own,{" "}
            <Link to={`/${site}/channels`} className="underline underline-offset-2">
              connect it under Channels
            </Link>{" "}
            first.
          </p>
        )}
        {editor && !all.folders && (
          <p className="mt-2 text-xs text-soft">
            Folders are turned off on this server. Whoever runs it can turn them on (DAPPER_FOLDERS).
          </p>
        )}
      </Part>
      {editing && (
        <DestinationSheet site={site} all={all} editing={editing} onClose={() => setEditing(undefined)} />
      )}
    </>
  );
}

type PagesKept = { on: boolean; hub: string; version: number };

const pagesOf = ({ pages, hub, version }: Destinations): PagesKept => ({
  on: pages,
  hub: hub.address,
  version,
});

function Pages({ site, all, reload }: Props) {
  const form = useKept(anything<PagesKept>(), pagesOf(all));
  const { changed } = form;
  const { on, hub } = form.values;
  const { savePages, tellHub } = useDestinationDeeds(site);
  const editor = usePlanner(site);
  const tell = useTell(site);
  const say = useSay();
  const refusal = savePages.error instanceof Refusal ? savePages.error : undefined;
  async function store(next: PagesKept) {
    await savePages.mutateAsync(next);
    tell("Settings saved.");
    const now = await reload().catch(() => undefined);
    return now ? pagesOf(now) : next; // what could not be read comes by and by
  }
  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the settings" />
        <h1 className="font-title text-2xl">Where posts go</h1>
        {editor && (
          <div className="ml-auto">
            <SaveButton
              name="Save settings"
              disabled={!changed || savePages.isPending}
              onSave={() => form.save(store)}
            />
          </div>
        )}
      </div>
      {form.movedOn && <MovedOn what="these settings" onTake={() => form.take(pagesOf(all))} />}
      {savePages.error && !refusal?.problem.errors && <Warning>{savePages.error.message}</Warning>}
      <Part
        title="Built-in pages"
        hint="The blog that comes with the program, with its feeds, search and sitemap."
      >
        <div className="max-w-md space-y-3">
          <Tick
            label="Show posts on the built-in pages"
            on={on}
            onChange={(to) => {
              if (!editor || savePages.isPending) return;
              form.set(to ? { on: to } : { on: to, hub: "" });
            }}
          />
          {refusal?.field("pages") && <Warning>{refusal.field("pages")}</Warning>}
          <p className="text-xs wrap-anywhere text-soft">
            {on ? (
              <>
                They are at{" "}
                <a href={all.pagesAddress} className="underline underline-offset-2">
                  {all.pagesAddress}
                </a>
                .
              </>
            ) : (
              "Links to them, also those in messages, lead on to where the post is."
            )}
          </p>
          {on && (
            <TextField
              label="WebSub hub"
              placeholder="none"
              hint="Feed readers that follow it hear of new posts at once. Feeds name it, and it is told when they change."
              readOnly={!editor}
              value={hub}
              error={refusal?.field("hub")}
              onChange={(e) => form.set({ hub: e.target.value })}
            />
          )}
          {all.hub.address && on && (
            <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-sm">
              <span className={all.hub.error ? "text-madder" : "text-soft"}>{hubState(all.hub)}</span>
              {editor && !changed && (
                <Button
                  disabled={tellHub.isPending}
                  onClick={() =>
                    tellHub.mutateAsync().then(() => say.done("The hub is being told."), say.trouble)
                  }
                >
                  Tell it now
                </Button>
              )}
            </div>
          )}
        </div>
      </Part>
    </>
  );
}

function hubState(hub: Destinations["hub"]): string {
  if (hub.error) return `! ${hub.error}${hub.next ? ` Tried again ${shownPlace(hub.next)}.` : ""}`;
  if (hub.told) return `✓ Told ${shownPlace(hub.told)}`;
  return hub.waiting ? "◔ Being told" : "Not told anything yet";
}
