import {
  Combobox,
  ComboboxInput,
  ComboboxOption,
  ComboboxOptions,
  Dialog,
  DialogBackdrop,
  DialogPanel,
} from "@headlessui/react";
import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api } from "../../api/client";
import { useAllCommands } from "../../ui/commands";
import { useSettled } from "../../ui/useSettled";
import { showGuide, useGuideSearch } from "../help/help";
import { useSession } from "../session/session";
import { KeyNames } from "./KeyNames";

/** How far a command is from what was typed: its name comes before the name of its group. */
function farness({ name, group }: { name: string; group: string }, typed: string, words: string[]): number {
  const said = name.toLowerCase();
  if (words.length === 0) return 0;
  if (said.startsWith(typed)) return 1;
  if (words.every((w) => said.includes(w))) return 2;
  return words.every((w) => `${said} ${group.toLowerCase()}`.includes(w)) ? 3 : Infinity;
}

type Choice = { id: string; name: string; group: string; keys?: string | undefined; run: () => void };

/** In how many other blogs posts are looked for, and how many of each are offered. */
const mostOthers = 10;
const mostOfOthers = 5;

/** Every screen, every action of the screen one is on, and every post of all one’s blogs, by a few letters. */
export default function Palette({
  site,
  typed,
  onType,
  onClose,
}: {
  site: string;
  typed: string;
  onType: (typed: string) => void;
  onClose: () => void;
}) {
  const navigate = useNavigate();
  const commands = useAllCommands();
  const wanted = useSettled(typed.trim(), 150);
  const found = useQuery({
    queryKey: ["plan", site, "find", wanted],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/titles", { params: { path: { site }, query: { title: wanted } } }),
      ),
    enabled: wanted.length > 1,
    placeholderData: keepPreviousData,
  });
  const others = (useSession().data?.sites ?? []).filter((s) => s.slug !== site).slice(0, mostOthers);
  const elsewhere = useQueries({
    queries: others.map((s) => ({
      queryKey: ["plan", s.slug, "find", wanted],
      queryFn: () =>
        answer(
          api.GET("/api/v1/sites/{site}/titles", {
            params: { path: { site: s.slug }, query: { title: wanted } },
          }),
        ),
      enabled: wanted.length > 1,
    })),
  });
  const guide = useGuideSearch(wanted);
  const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
  const doing: Choice[] = commands
    .map((c) => ({ ...c, id: `${c.group} ${c.name}`, far: farness(c, typed.trim().toLowerCase(), words) }))
    .filter((c) => c.far < Infinity)
    .sort((a, b) => a.far - b.far);
  const posts: Choice[] = (wanted.length > 1 && words.length > 0 ? (found.data?.posts ?? []) : []).map(
    (p) => ({
      id: `post ${p.id}`,
      name: p.title || "Untitled",
      group: "Posts",
      run: () => void navigate(`/${site}/write/${p.id}`),
    }),
  );
  const theirs: Choice[] = (wanted.length > 1 && words.length > 0 ? others : []).flatMap((s, i) =>
    (elsewhere[i]?.data?.posts ?? []).slice(0, mostOfOthers).map((p) => ({
      id: `post ${s.slug} ${p.id}`,
      name: p.title || "Untitled",
      group: s.title,
      run: () => void navigate(`/${s.slug}/write/${p.id}`),
    })),
  );
  const sections: Choice[] = (wanted.length > 2 && words.length > 0 ? (guide.data ?? []) : []).map((s) => ({
    id: `guide ${s.page} ${s.section ?? ""}`,
    name: s.title === s.pageTitle ? s.title : `${s.title} · ${s.pageTitle}`,
    group: "Guide",
    run: () => showGuide({ page: s.page, section: s.section }),
  }));
  const choices = [...doing, ...posts, ...theirs, ...sections];
  return (
    <Dialog open onClose={onClose} aria-label="Find a command or a post" className="relative z-50">
      <DialogBackdrop className="fixed inset-0 bg-veil" />
      <div className="fixed inset-0 flex items-start justify-center p-4 pt-[12vh]">
        <DialogPanel className="w-full max-w-xl rounded-md border border-strong bg-sheet shadow-lifted">
          <Combobox<Choice | null>
            immediate
            value={null}
            onChange={(choice) => {
              onClose();
              // Once this is gone and the focus is back: what is done may open something itself.
              if (choice) window.setTimeout(choice.run);
            }}
          >
            <ComboboxInput
              aria-label="A command, or a post’s title"
              placeholder="A command, or a post’s title"
              autoFocus
              autoComplete="off"
              className="h-12 w-full border-b border-line bg-transparent px-4 text-lg placeholder:text-faint focus:outline-none"
              displayValue={() => typed}
              onChange={(e) => onType(e.target.value)}
            />
            <ComboboxOptions static className="max-h-[55vh] overflow-y-auto py-1">
              {choices.map((c, i) => (
                <ComboboxOption
                  key={c.id}
                  value={c}
                  className="flex min-h-9 items-center gap-3 px-4 data-focus:bg-sunk"
                >
                  <span className="w-20 shrink-0 text-xs text-soft">
                    {choices[i - 1]?.group === c.group ? "" : c.group}
                  </span>
                  <span dir="auto" className="min-w-0 flex-1 truncate">
                    {c.name}
                  </span>
                  {c.keys && <KeyNames keys={c.keys} />}
                </ComboboxOption>
              ))}
            </ComboboxOptions>
            {choices.length === 0 && !found.isFetching && (
              <p role="status" className="px-4 py-6 text-soft">
                No command, post title or page of the guide matches.
              </p>
            )}
          </Combobox>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
