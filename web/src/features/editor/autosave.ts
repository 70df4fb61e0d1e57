import { answer, api, Refusal, type Schemas } from "../../api/client";
import { same } from "../../ui/same";
import { isDate, isTime } from "../../ui/typed";

export type Post = Schemas["Post"];

/** What an editor writes; what is absent from an expiry is no expiry. */
export type Fields = Pick<
  Post,
  | "title"
  | "body"
  | "excerpt"
  | "slug"
  | "kind"
  | "categoryId"
  | "tags"
  | "authorId"
  | "featured"
  | "onTop"
  | "commentsOpen"
  | "evergreen"
  | "neverExpires"
  | "fields"
> & { link: string; expires: { date?: string; clock?: string } };

type Field = keyof Fields;

export type Phase =
  | "saved"
  | "waiting" // something is to be saved in a moment
  | "saving"
  | "refused" // the rest is saved; some field is not, see errors
  | "unreachable" // tried again by and by
  | "stopped" // the server will not have it, see why; the next edit tries again
  | "conflict"; // somebody saved another version, see theirs

/** A draft of which nothing is kept yet. */
export function newPost(author: { id: number; name: string }): Post {
  return {
    id: 0,
    version: 0,
    title: "",
    body: "",
    excerpt: "",
    slug: "",
    kind: "post",
    categoryId: 0,
    tags: [],
    authorId: author.id,
    author: author.name,
    featured: { address: "", alt: "" },
    status: "draft",
    stage: "draft",
    cleared: false,
    pinned: false,
    held: false,
    onTop: false,
    commentsOpen: true,
    words: 0,
    minutes: 0,
    updatedAt: "",
    // What it can be made once something is written; the server says so of all that is kept.
    can: ["place", "clear", "retime", "publish", "hand in"],
    notes: [],
    neverExpires: false,
    evergreen: false,
    fields: {},
  };
}

export type State = {
  post: Post; // as the server last told it
  fields: Fields; // as they stand on the screen
  phase: Phase;
  errors: Partial<Record<Field, string>>;
  why?: string | undefined;
  theirs?: Post | undefined;
  restored: boolean; // something unsaved was found in this browser and put back
};

type Backup = { base: Fields; fields: Partial<Fields> };

const fieldNames: Field[] = [
  "title",
  "body",
  "excerpt",
  "slug",
  "link",
  "kind",
  "categoryId",
  "tags",
  "authorId",
  "featured",
  "onTop",
  "commentsOpen",
  "evergreen",
  "neverExpires",
  "expires",
  "fields",
];
const pause = 700; // ms without a key press before saving
const again = 4000; // ms before trying again without a connection
const races = 5; // saves in a row that somebody else's may overtake before it waits

/** What is written of a post, apart from where it stands. */
export function fieldsOf(post: Post): Fields {
  return {
    title: post.title,
    body: post.body,
    excerpt: post.excerpt,
    slug: post.slug,
    link: post.link ?? "",
    kind: post.kind,
    categoryId: post.categoryId,
    tags: post.tags,
    authorId: post.authorId,
    featured: post.featured,
    onTop: post.onTop,
    commentsOpen: post.commentsOpen,
    evergreen: post.evergreen,
    neverExpires: post.neverExpires,
    expires: post.expires ?? {},
    fields: post.fields,
  };
}

/**
 * Saves what is written, field by field, without being asked. Whatever happens, the text on the screen stays: a
 * refused field waits to be mended while the others are saved; without a connection it tries again, and keeps a copy
 * in the browser that outlives a closed tab. What others do to the post is taken in; only where they changed a field
 * that is being changed here too, it stops until the editor has chosen.
 */
export class Autosave {
  private state: State;
  private watchers = new Set<() => void>();
  private kept: Fields; // what the server has of ours, as it was written here
  private base: Fields; // what the server has, as it told it last
  private refused: Partial<Fields> = {}; // values not to be sent again as they are
  private timer: number | undefined;
  private heard: Post | undefined; // came in while a save was under way
  private running: Promise<void> | undefined;

  constructor(
    private readonly site: string,
    post: Post,
    private readonly onSaved: (post: Post) => void,
  ) {
    const found = this.readBackup(post);
    this.base = found?.base ?? fieldsOf(post);
    this.kept = this.base;
    this.state = {
      post,
      fields: { ...this.kept, ...found?.fields },
      phase: "saved",
      errors: {},
      restored: Boolean(found),
    };
    // What was saved since, here or by somebody else, is merged with what was found.
    if (found) this.takeIn(post);
  }

  /** Call once mounted; the returned function ends it, saving what waits. */
  start = () => {
    if (this.dirty().length > 0 && !this.state.theirs) this.schedule(0);
    return () => {
      window.clearTimeout(this.timer);
      void this.flush();
    };
  };

  subscribe = (watcher: () => void) => {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  };

  snapshot = () => this.state;

  edit(change: Partial<Fields>) {
    const errors = { ...this.state.errors };
    for (const name of Object.keys(change) as Field[]) delete errors[name];
    this.set({ fields: { ...this.state.fields, ...change }, errors });
    this.writeBackup();
    if (this.state.phase !== "conflict") this.schedule(pause);
  }

  /** Saves now, and tells whether all is saved. */
  async flush(): Promise<boolean> {
    window.clearTimeout(this.timer);
    while (this.running) await this.running;
    this.running = this.save(races).finally(() => {
      this.running = undefined;
      const heard = this.heard;
      this.heard = undefined;
      if (heard) this.hear(heard);
    });
    await this.running;
    return this.dirty().length === 0;
  }

  /**
   * Takes in the post as it is after something was done to it, here or elsewhere: a deed, its undoing, somebody
   * else's save. What is older than what is known is passed over.
   */
  hear(post: Post) {
    if (this.running) {
      if (post.version > (this.heard?.version ?? 0)) this.heard = post;
      return;
    }
    const known = this.state.theirs ?? this.state.post;
    if (post.version < known.version) return;
    if (post.version === known.version) {
      // The same version may carry a new name of its category or author.
      if (!this.state.theirs && !same(post, this.state.post)) this.set({ post });
      return;
    }
    if (this.takeIn(post) && this.dirty().length > 0) this.schedule(pause);
  }

  /**
   * Merges a newer post with what is written here: fields that changed there alone are taken, fields that changed
   * here alone stay. Where both changed one field differently it is a conflict, and nothing is taken.
   */
  private takeIn(post: Post): boolean {
    const theirs = fieldsOf(post);
    const mine = this.dirty();
    const changed = fieldNames.filter((n) => !same(theirs[n], this.base[n]));
    if (changed.some((n) => mine.includes(n) && !same(theirs[n], this.state.fields[n]))) {
      this.set({ phase: "conflict", theirs: post });
      return false;
    }
    const theirChanges = Object.fromEntries(changed.map((n) => [n, theirs[n]]));
    const taken = Object.fromEntries(changed.filter((n) => !mine.includes(n)).map((n) => [n, theirs[n]]));
    this.kept = { ...this.kept, ...theirChanges };
    this.base = theirs;
    this.set({
      post,
      fields: { ...this.state.fields, ...taken },
      theirs: undefined,
      ...(this.state.phase === "conflict" ? { phase: "saved" as const } : {}),
    });
    if (this.dirty().length === 0) this.dropBackup();
    return true;
  }

  /** The server writes addresses in its own way, and makes them where there is none. */
  private takeSlug(post: Post, seen: string) {
    if (this.state.fields.slug === seen) this.set({ fields: { ...this.state.fields, slug: post.slug } });
    this.kept = { ...this.kept, slug: post.slug };
  }

  /** Ends a conflict: what was changed here goes over theirs, or theirs is taken whole. */
  resolve(choice: "mine" | "theirs") {
    const theirs = this.state.theirs;
    if (!theirs) return;
    const mine = choice === "mine" ? this.dirty() : [];
    this.kept = fieldsOf(theirs);
    this.base = this.kept;
    this.set({
      post: theirs,
      theirs: undefined,
      phase: "waiting",
      fields: { ...this.kept, ...Object.fromEntries(mine.map((n) => [n, this.state.fields[n]])) },
      ...(choice === "theirs" ? { errors: {} } : {}),
    });
    this.schedule(0);
  }

  private set(change: Partial<State>) {
    this.state = { ...this.state, ...change };
    this.watchers.forEach((w) => w());
  }

  private dirty(): Field[] {
    return fieldNames.filter((n) => !same(this.state.fields[n], this.kept[n]));
  }

  /** What is still being typed is not sent; its field says so once it is left. */
  private readable(name: Field): boolean {
    if (name !== "expires") return true;
    const { date, clock } = this.state.fields.expires;
    return (!date || isDate(date)) && (!clock || isTime(clock));
  }

  private schedule(wait: number) {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.flush(), wait);
    if (this.state.phase === "saved" || this.state.phase === "stopped") this.set({ phase: "waiting" });
  }

  private async save(triesLeft: number): Promise<void> {
    if (this.state.theirs) return;
    const names = this.dirty().filter(
      (n) => !same(this.refused[n], this.state.fields[n]) && this.readable(n),
    );
    if (names.length === 0) {
      this.rest();
      return;
    }
    const sent = Object.fromEntries(names.map((n) => [n, this.state.fields[n]])) as Partial<Fields>;
    this.set({ phase: "saving" });
    try {
      const { id, version } = this.state.post;
      // A new draft is kept once there is something to keep.
      const post = await answer(
        id === 0
          ? api.POST("/api/v1/sites/{site}/posts", { params: { path: { site: this.site } }, body: sent })
          : api.PATCH("/api/v1/sites/{site}/posts/{id}", {
              params: { path: { site: this.site, id } },
              body: { ...sent, version },
            }),
      );
      if (id === 0) this.dropBackup(); // from now on it is kept under the post's number
      this.kept = { ...this.kept, ...sent };
      this.base = fieldsOf(post);
      this.takeSlug(post, this.kept.slug);
      this.set({ post });
      // What was refused, and what was typed meanwhile, is kept under its number too.
      if (id === 0 && this.dirty().length > 0) this.writeBackup();
      this.onSaved(post);
      this.rest();
    } catch (error) {
      await this.failed(error, sent, triesLeft - 1);
    }
  }

  /** After a save: at rest, or on to what was written meanwhile. */
  private rest() {
    if (this.dirty().length === 0) {
      this.dropBackup();
      this.set({ phase: "saved", restored: false });
    } else if (Object.keys(this.state.errors).length > 0 || this.dirty().every((n) => !this.readable(n))) {
      this.set({ phase: "refused" });
    } else {
      this.set({ phase: "waiting" });
      this.schedule(pause);
    }
  }

  private async failed(error: unknown, sent: Partial<Fields>, triesLeft: number) {
    if (error instanceof Refusal && error.status === 409 && error.problem.present) {
      if (!this.takeIn(error.problem.present)) return;
      if (triesLeft > 0) await this.save(triesLeft);
      else this.later();
      return;
    }
    const wrong = error instanceof Refusal ? this.wrongFields(error) : {};
    if (Object.keys(wrong).length === 0) {
      // Who is signed out signs in again over the editor, and it is saved then.
      if (error instanceof Refusal && error.status < 500 && error.status !== 429 && error.status !== 401)
        this.set({ phase: "stopped", why: error.message });
      else this.later();
      return;
    }
    for (const name of Object.keys(wrong) as Field[]) Object.assign(this.refused, { [name]: sent[name] });
    this.set({ errors: { ...this.state.errors, ...wrong } });
    await this.save(triesLeft); // the other fields
  }

  private later() {
    this.set({ phase: "unreachable" });
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.flush(), again);
  }

  private wrongFields(refusal: Refusal): Partial<Record<Field, string>> {
    const wrong: Partial<Record<Field, string>> = {};
    for (const e of refusal.problem.errors ?? []) {
      const name = fieldNames.find((n) => e.location?.startsWith(`body.${n}`));
      if (name && e.message) wrong[name] = e.message;
    }
    return wrong;
  }

  private get backupKey() {
    return `dapper.unsaved.${this.site}.${this.state.post.id}`;
  }

  private writeBackup() {
    try {
      const backup: Backup = { base: this.base, fields: this.state.fields };
      localStorage.setItem(this.backupKey, JSON.stringify(backup));
    } catch {
      // Storage is full or forbidden; the text is still on the screen.
    }
  }

  private dropBackup() {
    localStorage.removeItem(this.backupKey);
  }

  /** What an earlier visit could not save, and what the server had then. */
  private readBackup(post: Post): Backup | undefined {
    try {
      const stored = JSON.parse(
        localStorage.getItem(`dapper.unsaved.${this.site}.${post.id}`) ?? "null",
      ) as Backup | null;
      if (!stored?.base) return undefined;
      const now = fieldsOf(post);
      const differs = fieldNames.some(
        (n) => stored.fields[n] !== undefined && !same(stored.fields[n], now[n]),
      );
      return differs ? stored : undefined;
    } catch {
      return undefined;
    }
  }

  /** The fields that were changed both here and by somebody else. */
  differing(): Field[] {
    const theirs = this.state.theirs;
    if (!theirs) return [];
    const said = fieldsOf(theirs);
    return this.dirty().filter((n) => !same(this.state.fields[n], said[n]) && !same(said[n], this.base[n]));
  }
}
