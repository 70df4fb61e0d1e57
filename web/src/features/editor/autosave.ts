import { answer, api, Refusal, type Schemas } from "../../api/client";

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
> & { expires: { date?: string; clock?: string } };

type Field = keyof Fields;

export type Phase =
  | "saved"
  | "waiting" // something is to be saved in a moment
  | "saving"
  | "refused" // the rest is saved; some field is not, see errors
  | "unreachable" // tried again by and by
  | "conflict"; // somebody saved another version, see theirs

export type State = {
  post: Post; // as the server last told it
  fields: Fields; // as they stand on the screen
  phase: Phase;
  errors: Partial<Record<Field, string>>;
  theirs?: Post | undefined;
  restored: boolean; // something unsaved was found in this browser and put back
};

const fieldNames: Field[] = [
  "title",
  "body",
  "excerpt",
  "slug",
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

function fieldsOf(post: Post): Fields {
  return {
    title: post.title,
    body: post.body,
    excerpt: post.excerpt,
    slug: post.slug,
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

function same(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}

/**
 * Saves what is written, field by field, without being asked. Whatever happens, the text on the screen stays: a
 * refused field waits to be mended while the others are saved; without a connection it tries again, and keeps a copy
 * in the browser that outlives a closed tab; a version by somebody else stops it until the editor has chosen.
 */
export class Autosave {
  private state: State;
  private watchers = new Set<() => void>();
  private kept: Fields; // what the server has of ours
  private refused: Partial<Fields> = {}; // values not to be sent again as they are
  private timer: number | undefined;
  private running: Promise<void> | undefined;

  constructor(
    private readonly site: string,
    post: Post,
    private readonly onSaved: (post: Post) => void,
  ) {
    this.kept = fieldsOf(post);
    const found = this.readBackup(post);
    this.state = {
      post,
      fields: found ? { ...this.kept, ...found.fields } : this.kept,
      phase: found?.stale ? "conflict" : "saved",
      theirs: found?.stale ? post : undefined, // saved by somebody since; both are shown
      errors: {},
      restored: Boolean(found),
    };
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
    this.running = this.save().finally(() => (this.running = undefined));
    await this.running;
    return this.dirty().length === 0;
  }

  /** Takes a newer state of the post that a deed has brought about, without touching the text. */
  adopt(post: Post) {
    this.takeSlug(post, this.kept.slug);
    this.set({ post });
  }

  /** The server writes addresses in its own way, and makes them where there is none. */
  private takeSlug(post: Post, seen: string) {
    if (this.state.fields.slug === seen) this.set({ fields: { ...this.state.fields, slug: post.slug } });
    this.kept = { ...this.kept, slug: post.slug };
  }

  /** Ends a conflict: with one's own text over theirs, or with theirs. */
  resolve(choice: "mine" | "theirs") {
    const theirs = this.state.theirs;
    if (!theirs) return;
    this.kept = fieldsOf(theirs);
    this.set({
      post: theirs,
      theirs: undefined,
      phase: "waiting",
      ...(choice === "theirs" ? { fields: this.kept, errors: {} } : {}),
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

  private schedule(wait: number) {
    window.clearTimeout(this.timer);
    this.timer = window.setTimeout(() => void this.flush(), wait);
    if (this.state.phase === "saved") this.set({ phase: "waiting" });
  }

  private async save(): Promise<void> {
    if (this.state.theirs) return;
    const names = this.dirty().filter((n) => !same(this.refused[n], this.state.fields[n]));
    if (names.length === 0) {
      this.rest();
      return;
    }
    const sent = Object.fromEntries(names.map((n) => [n, this.state.fields[n]])) as Partial<Fields>;
    this.set({ phase: "saving" });
    try {
      const post = await answer(
        api.PATCH("/api/v1/sites/{site}/posts/{id}", {
          params: { path: { site: this.site, id: this.state.post.id } },
          body: { ...sent, version: this.state.post.version },
        }),
      );
      this.kept = { ...this.kept, ...sent };
      this.takeSlug(post, this.kept.slug);
      this.set({ post });
      this.onSaved(post);
      this.rest();
    } catch (error) {
      await this.failed(error, sent);
    }
  }

  /** After a save: at rest, or on to what was written meanwhile. */
  private rest() {
    if (this.dirty().length === 0) {
      this.dropBackup();
      this.set({ phase: "saved", restored: false });
    } else if (Object.keys(this.state.errors).length > 0) {
      this.set({ phase: "refused" });
    } else {
      this.set({ phase: "waiting" });
      this.schedule(pause);
    }
  }

  private async failed(error: unknown, sent: Partial<Fields>) {
    if (error instanceof Refusal && error.status === 409 && error.problem.present) {
      this.set({ phase: "conflict", theirs: error.problem.present });
      return;
    }
    const wrong = error instanceof Refusal ? this.wrongFields(error) : {};
    if (Object.keys(wrong).length === 0) {
      this.set({ phase: "unreachable" });
      window.clearTimeout(this.timer);
      this.timer = window.setTimeout(() => void this.flush(), again);
      return;
    }
    for (const name of Object.keys(wrong) as Field[]) Object.assign(this.refused, { [name]: sent[name] });
    this.set({ errors: { ...this.state.errors, ...wrong } });
    await this.save(); // the other fields
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
      localStorage.setItem(
        this.backupKey,
        JSON.stringify({ version: this.state.post.version, fields: this.state.fields }),
      );
    } catch {
      // Storage is full or forbidden; the text is still on the screen.
    }
  }

  private dropBackup() {
    localStorage.removeItem(this.backupKey);
  }

  /** What an earlier visit could not save; stale where somebody has saved the post since. */
  private readBackup(post: Post): { fields: Partial<Fields>; stale: boolean } | undefined {
    try {
      const stored = JSON.parse(localStorage.getItem(`dapper.unsaved.${this.site}.${post.id}`) ?? "null") as {
        version: number;
        fields: Partial<Fields>;
      } | null;
      if (!stored) return undefined;
      const now = fieldsOf(post);
      const differs = fieldNames.some(
        (n) => stored.fields[n] !== undefined && !same(stored.fields[n], now[n]),
      );
      return differs ? { fields: stored.fields, stale: stored.version !== post.version } : undefined;
    } catch {
      return undefined;
    }
  }

  /** In which fields one's own version and somebody else's differ. */
  differing(): Field[] {
    const theirs = this.state.theirs;
    return theirs ? fieldNames.filter((n) => !same(this.state.fields[n], fieldsOf(theirs)[n])) : [];
  }
}
