import { useMemo, useState } from "react";
import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { useSettled } from "../../ui/useSettled";
import { useSay } from "../../ui/toast";
import { TroubleHere, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { CleanFields } from "./CleanFields";
import { FillFields } from "./FillFields";
import { FindFields } from "./FindFields";
import { KeptSetups } from "./KeptSetups";
import { LandingFields } from "./LandingFields";
import { LeftFiles } from "./LeftFiles";
import { LineView } from "./LineView";
import { SheetFields } from "./SheetFields";
import { useImportDeeds, useLook, usePreview, type Look, type Setup, type WholeImport } from "./imports";

/** What a part of the setup is given. */
export type Part = {
  site: string;
  setup: Setup;
  look: Look;
  wrong: (field: string) => string | undefined;
  onChange: (change: Partial<Setup>) => void;
};

/** Says how files are read and what becomes of their lines, with the first ones beside it as they would be. */
export function SetupScreen({ site, of: i, onRead }: { site: string; of: WholeImport; onRead: () => void }) {
  const had = i.state !== "collecting";
  const first = useLook(site, i.id, had ? i.setup.sheet : undefined, true);
  if (first.isPending) return <Waiting what="the files" />;
  if (first.error) return <TroubleHere error={first.error} retry={() => void first.refetch()} />;
  return (
    <Form site={site} of={i} first={first.data} start={had ? i.setup : first.data.guess} onRead={onRead} />
  );
}

type FormProps = { site: string; of: WholeImport; first: Look; start: Setup; onRead: () => void };

function Form({ site, of: i, first, start, onRead }: FormProps) {
  const say = useSay();
  const [setup, setSetup] = useState<Setup>(start);
  const { read } = useImportDeeds(site);
  const settled = useSettled(setup, 400);
  const sheet = useSettled(setup.sheet, 400);
  const looked = useLook(site, i.id, sheet, first.kind === "sheet");
  const look = first.kind === "sheet" && looked.data ? looked.data : first;
  const preview = usePreview(site, i.id, settled, true);
  const refusal = refusalOf(read.error) ?? refusalOf(preview.error);
  const part: Part = useMemo(
    () => ({
      site,
      setup,
      look,
      wrong: (field) => refusal?.field(`setup.${field}`),
      onChange: (change) => setSetup((s) => ({ ...s, ...change })),
    }),
    [site, setup, look, refusal],
  );
  return (
    <div className="grid gap-6 lg:grid-cols-[minmax(26rem,1fr)_minmax(0,1fr)]">
      <div className="min-w-0">
        <p className="mb-2 text-sm text-soft">{hold(look)}</p>
        <LeftFiles left={look.left} />
        <KeptSetups site={site} setup={setup} onTake={setSetup} />
        {look.kind === "sheet" && <SheetFields {...part} />}
        <FillFields {...part} />
        <FindFields {...part} />
        <CleanFields {...part} />
        <LandingFields {...part} />
        <div className="mt-4 flex items-center gap-3">
          <Button
            look="main"
            disabled={read.isPending}
            onClick={() => read.mutate({ of: i, setup }, { onSuccess: onRead, onError: say.trouble })}
          >
            {look.kind === "articles" && look.articles > 0
              ? `Read all ${look.articles} articles`
              : "Read all rows"}
          </Button>
          <span className="text-xs text-soft">Nothing is brought in yet: you see all of it first.</span>
        </div>
      </div>
      <section
        aria-label="The first lines, as posts"
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- so that keys scroll it
        tabIndex={0}
        className="min-w-0 lg:sticky lg:top-4 lg:max-h-[calc(100vh-2rem)] lg:self-start lg:overflow-y-auto lg:border-l lg:border-line lg:pl-6"
      >
        <h2 className="mb-2 text-base font-semibold">The first lines, as posts</h2>
        {preview.error && (
          <div className="mb-3">
            <Warning>{preview.error.message}</Warning>
          </div>
        )}
        {preview.isPending && <Waiting what="the first lines" />}
        <ol aria-busy={preview.isPlaceholderData} className="space-y-4 aria-busy:renewed">
          {preview.data?.lines.map((l) => (
            <li key={l.nr} className="border-b border-line pb-3">
              <LineView line={l} />
            </li>
          ))}
        </ol>
        {preview.data?.lines.length === 0 && <p className="text-sm text-soft">There are no lines.</p>}
      </section>
    </div>
  );
}

const refusalOf = (error: unknown) => (error instanceof Refusal ? error : undefined);

/** What the files hold, in a sentence. */
function hold(l: Look): string {
  const some = (n: number, one: string) => `${n} ${n === 1 ? one : `${one}s`}`;
  const pictures = l.pictures > 0 ? ` and ${some(l.pictures, "picture")}` : "";
  if (l.kind === "sheet") {
    return `A sheet with ${some(l.headings?.length ?? 0, "column")}${pictures}.`;
  }
  return `${some(l.articles, "article")}${pictures}.`;
}
