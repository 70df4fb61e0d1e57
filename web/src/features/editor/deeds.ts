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
  hold: `${one}/hold`,
  release: `${one}/release`,
  bin: `${one}/bin`,
  restore: `${one}/restore`,
  "hand in": `${one}/hand-in`,
  "give back": `${one}/give-back`,
} as const;

export type PostDeed = keyof typeof paths;

/** Saves what waits, and answers with the post that was saved; throws where not all of it could be. */
export async function saved(autosave: Autosave) {
  if (!(await autosave.flush()))
    throw new Error("Some fields are not saved yet. Correct what is marked first.");
  const { post } = autosave.snapshot();
  if (post.id === 0) throw new Error("There is nothing in this draft yet. Write something first.");
  return post;
}

/** Saves what waits, then does a deed to the version that was saved. */
export function useDo(site: string, autosave: Autosave) {
  const say = useSay();
  const tell = useTell(site);
  const [busy, setBusy] = useState(false);
  async function act(deed: PostDeed) {
    const { id, version } = await saved(autosave);
    autosave.hear(await answer(api.POST(paths[deed], { params: { path: { site, id } }, body: { version } })));
  }
  async function go(deed: PostDeed, done: string) {
    setBusy(true);
    try {
      await act(deed);
      tell(done);
    } catch (error) {
      say.trouble(error);
    } finally {
      setBusy(false);
    }
  }
  return { busy, go, publish: () => act("publish") };
}
