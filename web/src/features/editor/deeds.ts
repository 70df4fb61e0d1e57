import { useState } from "react";
import { answer, api } from "../../api/client";
import { useSay } from "../../ui/toast";
import { useTell } from "../logbook/useTell";
import type { Autosave } from "./autosave";

const one = "/api/v1/sites/{site}/posts/{id}" as const;

const paths = {
  clear: `${one}/clear`,
  unclear: `${one}/unclear`,
  shelve: `${one}/shelve`,
  publish: `${one}/publish`,
  bin: `${one}/bin`,
  restore: `${one}/restore`,
  "hand in": `${one}/hand-in`,
  "give back": `${one}/give-back`,
} as const;

export type PostDeed = keyof typeof paths;

/** Saves what waits, then does a deed to the version that was saved. */
export function useDo(site: string, autosave: Autosave) {
  const say = useSay();
  const tell = useTell(site);
  const [busy, setBusy] = useState(false);
  async function go(deed: PostDeed, done: string) {
    setBusy(true);
    try {
      if (!(await autosave.flush()))
        throw new Error("First mend what is marked, so that all of it is saved.");
      const { id, version } = autosave.snapshot().post;
      autosave.adopt(
        await answer(api.POST(paths[deed], { params: { path: { site, id } }, body: { version } })),
      );
      tell(done);
    } catch (error) {
      say.trouble(error);
    } finally {
      setBusy(false);
    }
  }
  return { busy, go };
}
