import { Label, Radio, RadioGroup } from "@headlessui/react";
import { TextField } from "../../ui/Field";
import { Trouble, Warning } from "../../ui/Trouble";
import { Unsaved } from "../../ui/Unsaved";
import { anything } from "../../ui/schema";
import { useKept } from "../../ui/useKept";
import { useSettled } from "../../ui/useSettled";
import { Waiting } from "../../ui/Waiting";
import { Button } from "../../ui/Button";
import { SaveButton } from "../../ui/SaveButton";
import { useTell } from "../logbook/useTell";
import { useOwner } from "../session/session";
import {
  useAppearance,
  useFrontPage,
  useSaveAppearance,
  useShades,
  type Appearance,
  type Look,
} from "./appearance";

const looks: { value: Look; name: string; says: string }[] = [
  { value: "book", name: "Book", says: "Serifs, a centred title, dates in the margin." },
  { value: "plain", name: "Plain", says: "No serifs, everything from the left edge." },
  { value: "broadside", name: "Broadside", says: "Large headlines, lists in two columns." },
];

/** How the blog looks to its readers, seen beside while one chooses. */
export function LookSettings({ site }: { site: string }) {
  const appearance = useAppearance(site);
  if (appearance.isPending) return <Waiting what="the look" />;
  if (appearance.error) return <Trouble error={appearance.error} retry={() => void appearance.refetch()} />;
  return <LookForm key={site} site={site} saved={appearance.data} />;
}

function LookForm({ site, saved }: { site: string; saved: Appearance }) {
  const owner = useOwner(site);
  const form = useKept(anything<Appearance>(), saved);
  const { changed } = form;
  const { look, accent } = form.values;
  const asked = useSettled(accent.trim(), 200);
  const shades = useShades(site, look, asked);
  const save = useSaveAppearance(site);
  const tell = useTell(site);
  async function store(next: Appearance) {
    const kept = await save.mutateAsync(next);
    tell("Look saved.");
    return kept;
  }
  return (
    <>
      <div className="mb-4 flex items-center gap-3">
        <Unsaved when={changed} what="the look" />
        <h1 className="font-title text-2xl">Look</h1>
        {owner && (
          <div className="ml-auto flex gap-2">
            {changed && <Button onClick={() => form.take(saved)}>Discard changes</Button>}
            <SaveButton
              name="Save look"
              disabled={!changed || save.isPending}
              onSave={() => form.save(store)}
            />
          </div>
        )}
      </div>
      {save.error && <Warning>{save.error.message}</Warning>}
      {!owner && <p className="mb-3 text-sm text-soft">Only owners of this blog change these.</p>}
      <div className="grid gap-5 lg:grid-cols-[16rem_1fr]">
        <div className="space-y-5">
          <RadioGroup
            aria-label="Look"
            value={look}
            onChange={(to: Look) => form.set({ look: to })}
            disabled={!owner}
            className="space-y-2"
          >
            {looks.map((l) => (
              <Radio
                key={l.value}
                value={l.value}
                className="group flex cursor-pointer gap-2 rounded-md border border-line bg-sheet p-3 data-checked:border-ink data-checked:outline data-checked:outline-ink data-disabled:cursor-default"
              >
                <span className="mt-0.5 size-4 shrink-0 rounded-full border border-strong bg-sheet group-data-checked:border-[5px] group-data-checked:border-ink" />
                <span>
                  <Label className="block text-base font-semibold">{l.name}</Label>
                  <span className="block text-sm text-soft">{l.says}</span>
                </span>
              </Radio>
            ))}
          </RadioGroup>
          <section aria-labelledby="accent">
            <h2 id="accent" className="mb-2 text-base font-semibold">
              Accent colour
            </h2>
            <RadioGroup
              aria-label="Accent colour"
              value={accent}
              onChange={(to: string) => form.set({ accent: to })}
              disabled={!owner}
              className="mb-2 grid grid-cols-4 gap-1.5"
            >
              {(saved.accents ?? []).map((a) => (
                <Radio
                  key={a.colour}
                  value={a.colour}
                  aria-label={a.name}
                  className="group cursor-pointer rounded-md border border-line p-1 data-checked:border-ink data-checked:outline data-checked:outline-ink data-disabled:cursor-default"
                >
                  <svg viewBox="0 0 40 16" aria-hidden="true" className="w-full rounded-sm">
                    <rect width="40" height="16" fill={a.colour} />
                  </svg>
                  <span className="block truncate text-center text-xs">{a.name}</span>
                </Radio>
              ))}
            </RadioGroup>
            <TextField
              label="Or a colour of your own"
              placeholder="#15506b"
              spellCheck={false}
              readOnly={!owner}
              value={accent}
              error={shades.error?.message}
              onChange={(e) => form.set({ accent: e.target.value })}
            />
            {shades.data && !shades.error && (
              <ul className="mt-2 space-y-1 text-xs text-soft">
                <ShadeLine name="By day" {...shades.data.day} />
                <ShadeLine name="By night" {...shades.data.night} />
              </ul>
            )}
          </section>
        </div>
        <Seen site={site} look={look} accent={shades.data?.accent ?? saved.accent} />
      </div>
    </>
  );
}

type Shade = { name: string; colour: string; page: string; contrast: number; moved: boolean };

/** How links look by day or by night, and how well they can be read. */
function ShadeLine({ name, colour, page, contrast, moved }: Shade) {
  return (
    <li className="flex items-center gap-2">
      <svg viewBox="0 0 34 18" aria-hidden="true" className="w-9 shrink-0 rounded-sm border border-line">
        <rect width="34" height="18" fill={page} />
        <text x="17" y="13.5" textAnchor="middle" fontSize="13" fill={colour} textDecoration="underline">
          Aa
        </text>
      </svg>
      <span>
        {name}: contrast {contrast.toFixed(1)} to 1{moved && ", in a shade that is easier to read"}
      </span>
    </li>
  );
}

/** The blog's front page with a look that is not saved yet. Its links lead nowhere. */
function Seen({ site, look, accent }: { site: string; look: Look; accent: string }) {
  const front = useFrontPage(site);
  if (front.isPending) return <Waiting what="the front page" />;
  if (front.error) return <Trouble error={front.error} retry={() => void front.refetch()} />;
  const query = new URLSearchParams({ look, accent });
  const style = `/blog/${encodeURIComponent(site)}/look.css?${query.toString()}`;
  const page = front.data.replace(
    /<link rel="stylesheet" href="[^"]*look\.css[^"]*">/,
    () =>
      `<link rel="stylesheet" href="${style.replaceAll("&", "&amp;")}"><style>a{pointer-events:none}</style>`,
  );
  return (
    <div className="h-[34rem] overflow-hidden rounded-md border border-line bg-sheet">
      {/* Nearly as wide as most readers have it, and made smaller. */}
      <iframe
        title="The blog’s front page with this look"
        sandbox="allow-same-origin"
        srcDoc={page}
        className="h-[180%] w-[180%] origin-top-left scale-[0.5556]"
      />
    </div>
  );
}
