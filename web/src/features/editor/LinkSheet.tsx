import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Field, inputLook } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { useSettled } from "../../ui/useSettled";

type Found = Schemas["FoundPost"];

type Props = {
  site: string;
  onClose: () => void;
  onLink: (address: string, words: string) => void;
};

const status: Record<string, string> = {
  draft: "draft",
  scheduled: "scheduled",
  published: "out",
  archived: "archived",
  binned: "in the bin",
};

const isAddress = (text: string) => /^(https?:\/\/|mailto:|\/|#)\S+$/i.test(text);

/** Asks where a link leads: to a post or a page of the blog, or to any address. */
export function LinkSheet({ site, onClose, onLink }: Props) {
  const [typed, setTyped] = useState("");
  const [post, setPost] = useState<Found | null>(null);
  const wanted = useSettled(typed.trim(), 150);
  const found = useQuery({
    queryKey: ["plan", site, "find", wanted],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/titles", { params: { path: { site }, query: { title: wanted } } }),
      ),
    enabled: wanted.length > 1 && !isAddress(wanted),
    placeholderData: keepPreviousData,
  });
  const address = post?.path ?? (isAddress(typed.trim()) ? typed.trim() : bare(typed.trim()));
  const posts = isAddress(wanted) || wanted.length < 2 ? [] : (found.data?.posts ?? []).filter(linkable);
  function go() {
    if (address) onLink(address, post?.title || address.replace(/^(https?:\/\/|mailto:)/i, ""));
  }
  return (
    <Sheet
      open
      onClose={onClose}
      title="Add a link"
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={!address} onClick={go}>
            Add link
          </Button>
        </>
      }
    >
      <form
        className="min-h-56"
        onSubmit={(e) => {
          e.preventDefault();
          go();
        }}
      >
        <Field label="A post or page of this blog, or a web address">
          <Combobox<Found | null>
            value={post}
            onChange={(chosen) => {
              if (chosen) setPost(chosen);
            }}
          >
            <ComboboxInput
              autoFocus
              autoComplete="off"
              placeholder="Words of its title, or https://…"
              className={inputLook}
              displayValue={(p: Found | null) => p?.title ?? typed}
              onChange={(e) => {
                setPost(null);
                setTyped(e.target.value);
              }}
            />
            <ComboboxOptions
              anchor="bottom start"
              className="z-50 max-h-64! w-(--input-width) rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px] empty:hidden"
            >
              {posts.map((p) => (
                <ComboboxOption
                  key={p.id}
                  value={p}
                  disabled={!p.path}
                  className="flex min-h-8 items-center justify-between gap-4 px-2 text-base data-disabled:text-faint data-focus:bg-sunk"
                >
                  <span className="min-w-0 truncate">{p.title}</span>
                  <span className="shrink-0 text-xs text-soft">
                    {p.path
                      ? `${p.kind === "page" ? "page, " : ""}${status[p.status]}`
                      : "has no address yet"}
                  </span>
                </ComboboxOption>
              ))}
            </ComboboxOptions>
          </Combobox>
        </Field>
        {post && post.status !== "published" && (
          <p className="mt-2 text-sm text-away">Readers will find nothing there until it is published.</p>
        )}
        {address && !post && <p className="mt-2 text-sm text-soft wrap-anywhere">Links to {address}</p>}
        {wanted.length > 1 && !address && found.isSuccess && posts.length === 0 && (
          <p role="status" className="mt-2 text-sm text-soft">
            No post title matches.
          </p>
        )}
      </form>
    </Sheet>
  );
}

const linkable = (p: Found) => p.status !== "binned" && p.kind !== "link";

/** An address without its beginning, as people write them: example.org/a */
function bare(text: string): string | undefined {
  return /^[\p{L}\d-]+(\.[\p{L}\d-]+)+(\/\S*)?$/u.test(text) ? `https://${text}` : undefined;
}
