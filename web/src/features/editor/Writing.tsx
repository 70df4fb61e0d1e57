import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { plainDate } from "../../ui/civil";
import { useSettled } from "../../ui/useSettled";
import type { Autosave, State } from "./autosave";
import { MarkdownText } from "./MarkdownText";
import { ReaderView } from "./ReaderView";
import { useTextTools } from "./TextTools";
import { Toolbar } from "./Toolbar";

const views = ["Write", "Beside", "Read"] as const;

type View = (typeof views)[number];

const viewKey = "dapper.editor-view";

/** The text: as it is written, as it is read, or both beside each other. */
export function Writing({ site, autosave, state }: { site: string; autosave: Autosave; state: State }) {
  const [view, setView] = useState<View>(
    () => views.find((v) => v === localStorage.getItem(viewKey)) ?? "Write",
  );
  const tools = useTextTools(site);
  const { fields, errors, post } = state;
  const settled = useSettled(fields.body, 350);
  const rendered = useQuery({
    queryKey: ["rendered", site, settled],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/render", { params: { path: { site } }, body: { body: settled } }),
      ),
    enabled: view !== "Write",
    placeholderData: keepPreviousData,
    gcTime: 10_000,
    staleTime: Infinity,
  });

  function choose(next: View) {
    setView(next);
    localStorage.setItem(viewKey, next);
  }

  // Where readers' view is not shown, what was saved last is counted.
  const length = view === "Write" ? post : (rendered.data ?? post);
  const page = fields.kind === "page";
  const above = page
    ? ""
    : [post.when ? plainDate(post.when.date) : "Not dated yet", post.category].filter(Boolean).join(" · ");
  const byline = page ? "" : `${post.author} · ${rendered.data?.minutes ?? 1} min`;
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <div role="group" aria-label="How the text is shown" className="flex rounded-md border border-strong">
          {views.map((v) => (
            <button
              key={v}
              type="button"
              aria-pressed={v === view}
              onClick={() => choose(v)}
              className={`h-7 border-r border-line px-3 text-sm first:rounded-l-[5px] last:rounded-r-[5px] last:border-r-0 focus-visible:z-10 ${v === view ? "bg-ink text-ground" : "text-soft hover:bg-sunk"}`}
            >
              {v}
            </button>
          ))}
        </div>
        <Toolbar disabled={view === "Read"} {...tools.toolbar} />
        {tools.busy && (
          <p role="status" className="text-sm text-soft">
            Uploading a picture…
          </p>
        )}
        <p className="ml-auto text-sm text-soft">
          {length.words === 1 ? "1 word" : `${length.words} words`}
          {length.words > 0 && `, ${length.minutes} min to read`}
        </p>
      </div>
      <div className="mt-2 flex min-h-96 flex-1 gap-4">
        {view !== "Read" && (
          <div className="flex min-w-0 flex-1 flex-col">
            <MarkdownText
              value={fields.body}
              invalid={Boolean(errors.body)}
              onChange={(body) => autosave.edit({ body })}
              {...tools.area}
            />
          </div>
        )}
        {view !== "Write" && (
          <div className="flex min-w-0 flex-1 flex-col">
            <ReaderView
              site={site}
              title={fields.title}
              above={above}
              byline={byline}
              lead={fields.featured}
              html={rendered.data?.html ?? ""}
            />
          </div>
        )}
      </div>
      {errors.body && (
        <p role="alert" className="mt-1 text-sm text-madder">
          {errors.body}
        </p>
      )}
      {(view === "Write" ? post : (rendered.data ?? post)).notes.map((note) => (
        <p
          key={note}
          role="status"
          className="mt-2 rounded-md border border-madder px-3 py-2 text-sm text-madder"
        >
          {note}
        </p>
      ))}
      {tools.sheets}
    </>
  );
}
