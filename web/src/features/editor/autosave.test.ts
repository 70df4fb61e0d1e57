import { beforeEach, describe, expect, it, vi } from "vitest";
import { api, type Problem } from "../../api/client";
import { Autosave, fieldsOf, newPost, type Post } from "./autosave";

vi.mock("../../api/client", async (original) => ({
  ...(await original<typeof import("../../api/client")>()),
  api: { PATCH: vi.fn(), POST: vi.fn() },
}));

const first = {
  id: 7,
  version: 1,
  status: "draft",
  title: "Frost",
  body: "Cold night.",
  excerpt: "",
  slug: "",
  kind: "post",
  categoryId: 1,
  tags: [],
  authorId: 2,
  author: "Ines Abara",
  featured: { address: "", alt: "" },
  onTop: false,
  commentsOpen: true,
  evergreen: false,
  neverExpires: false,
  fields: {},
} as unknown as Post;

/** A server that keeps one post and refuses what was made from an older version. */
class Server {
  post: Post = first;
  sent: Record<string, unknown>[] = [];
  /** Answers the next request with this problem. */
  refusing: Problem | undefined;
  down = false;
  /** Runs before the next request is looked at. */
  before: (() => void) | undefined;

  change(change: Partial<Post>): Post {
    this.post = { ...this.post, ...change, version: this.post.version + 1 };
    return this.post;
  }

  patch = (_path: string, { body }: { body: Record<string, unknown> }) => {
    this.before?.();
    this.before = undefined;
    if (this.down) return Promise.reject(new TypeError("no connection"));
    const { version, ...fields } = body;
    this.sent.push(fields);
    if (this.refusing) {
      const error = this.refusing;
      this.refusing = undefined;
      return no(error);
    }
    if (version !== this.post.version)
      return no({
        status: 409,
        title: "Conflict",
        detail: "changed meanwhile",
        present: this.post,
      } as Problem);
    return Promise.resolve({ data: this.change(fields), response: new Response() });
  };
}

const no = (error: Problem) =>
  Promise.resolve({ error, response: new Response("", { status: error.status }) });

let server: Server;

beforeEach(() => {
  vi.useFakeTimers();
  server = new Server();
  vi.mocked(api.PATCH).mockImplementation(server.patch as unknown as typeof api.PATCH);
});

const open = (post = server.post) => new Autosave("dome", post, () => {});

const settle = () => vi.advanceTimersByTimeAsync(1000);

describe("what happens to an open post elsewhere", () => {
  it("is no conflict where the text did not change: a deed, undone, then typing", async () => {
    const save = open();
    save.hear(server.change({ status: "scheduled" })); // on the shelf
    server.change({ status: "draft" }); // undone; the editor has not heard yet
    save.edit({ body: "Cold night, clear sky." });
    await settle();
    expect(save.snapshot().phase).toBe("saved");
    expect(server.post.body).toBe("Cold night, clear sky.");
  });

  it("is shown at once, without touching the text", () => {
    const save = open();
    save.edit({ body: "Half a sen" });
    save.hear(server.change({ status: "published" }));
    expect(save.snapshot().post.status).toBe("published");
    expect(save.snapshot().fields.body).toBe("Half a sen");
  });

  it("is taken, field by field, where nobody is writing here", async () => {
    const save = open();
    save.edit({ body: "Colder." });
    save.hear(server.change({ title: "Hard frost", tags: ["winter"] }));
    expect(save.snapshot().fields).toMatchObject({ title: "Hard frost", tags: ["winter"], body: "Colder." });
    await settle();
    expect(server.sent).toEqual([{ body: "Colder." }]);
    expect(server.post).toMatchObject({ title: "Hard frost", body: "Colder." });
  });

  it("is a conflict where the same field was changed on both sides", async () => {
    const save = open();
    save.edit({ body: "Mine." });
    server.change({ body: "Theirs.", title: "Their title" });
    await settle();
    expect(save.snapshot().phase).toBe("conflict");
    expect(save.differing()).toEqual(["body"]);
    expect(server.post.body).toBe("Theirs.");

    save.resolve("mine");
    await settle();
    expect(server.post).toMatchObject({ body: "Mine.", title: "Their title" });
    expect(save.snapshot().phase).toBe("saved");
  });

  it("ends a conflict when they take their change back", async () => {
    const save = open();
    save.edit({ body: "Mine." });
    save.hear(server.change({ body: "Theirs." }));
    expect(save.snapshot().phase).toBe("conflict");
    save.hear(server.change({ body: first.body }));
    await settle();
    expect(save.snapshot().phase).toBe("saved");
    expect(server.post.body).toBe("Mine.");
  });

  it("is no conflict where both wrote the same", async () => {
    const save = open();
    save.edit({ body: "The same." });
    server.change({ body: "The same." });
    await settle();
    expect(save.snapshot().phase).toBe("saved");
  });

  it("is passed over when it is older than what is known", async () => {
    const save = open();
    const old = server.post;
    save.edit({ body: "New." });
    await settle();
    save.hear(old);
    expect(save.snapshot().fields.body).toBe("New.");
    expect(save.snapshot().post.version).toBe(2);
  });

  it("is no conflict where the server has only trimmed what was written", async () => {
    const save = open();
    const patch = server.patch;
    vi.mocked(api.PATCH).mockImplementation(((path: string, asked: { body: Record<string, unknown> }) => {
      const { title } = asked.body;
      return patch(path, { body: { ...asked.body, ...(title ? { title: String(title).trim() } : {}) } });
    }) as unknown as typeof api.PATCH);
    save.edit({ title: "Cold " });
    await settle();
    save.edit({ title: "Cold n" });
    save.hear(server.change({ status: "scheduled" }));
    expect(save.snapshot()).toMatchObject({ phase: "waiting", fields: { title: "Cold n" } });
  });

  it("is taken in after the save that is under way", async () => {
    const save = open();
    save.edit({ body: "New." });
    server.before = () => save.hear({ ...server.post, version: 9, title: "From elsewhere" });
    await settle();
    expect(save.snapshot().fields).toMatchObject({ title: "From elsewhere" });
  });

  it("may overtake every save without a loop", async () => {
    const save = open();
    const patch = server.patch;
    vi.mocked(api.PATCH).mockImplementation(((path: string, asked: { body: Record<string, unknown> }) => {
      server.change({ status: "draft" });
      return patch(path, asked);
    }) as unknown as typeof api.PATCH);
    save.edit({ body: "New." });
    await settle();
    expect(save.snapshot().phase).toBe("unreachable");
    expect(server.sent.length).toBeLessThan(10);
    expect(save.snapshot().fields.body).toBe("New.");
  });
});

describe("saving", () => {
  it("sends only what changed, once typing pauses", async () => {
    const save = open();
    save.edit({ body: "A" });
    await vi.advanceTimersByTimeAsync(500);
    save.edit({ body: "AB" });
    await vi.advanceTimersByTimeAsync(500);
    expect(server.sent).toEqual([]);
    expect(save.snapshot().phase).toBe("waiting");
    await settle();
    expect(server.sent).toEqual([{ body: "AB" }]);
    expect(save.snapshot().phase).toBe("saved");
  });

  it("saves the other fields where one is refused, and that one once it is mended", async () => {
    const save = open();
    server.refusing = {
      status: 422,
      title: "",
      detail: "",
      errors: [{ location: "body.slug", message: "This address is taken." }],
    } as Problem;
    save.edit({ slug: "taken", body: "New." });
    await settle();
    expect(save.snapshot()).toMatchObject({ phase: "refused", errors: { slug: "This address is taken." } });
    expect(server.post.body).toBe("New.");
    save.edit({ slug: "free" });
    await settle();
    expect(save.snapshot()).toMatchObject({ phase: "saved", errors: {} });
    expect(server.post.slug).toBe("free");
  });

  it("tries again without a connection", async () => {
    const save = open();
    server.down = true;
    save.edit({ body: "New." });
    await settle();
    expect(save.snapshot().phase).toBe("unreachable");
    server.down = false;
    await vi.advanceTimersByTimeAsync(5000);
    expect(save.snapshot().phase).toBe("saved");
    expect(server.post.body).toBe("New.");
  });

  it("says why where the server will not have it, and tries again at the next edit", async () => {
    const save = open();
    server.refusing = { status: 404, title: "", detail: "There is no such post." } as Problem;
    save.edit({ body: "New." });
    await settle();
    expect(save.snapshot()).toMatchObject({ phase: "stopped", why: "There is no such post." });
    save.edit({ body: "Newer." });
    await settle();
    expect(save.snapshot().phase).toBe("saved");
  });
});

describe("what a closed tab could not save", () => {
  it("is put back and saved, also where the post was moved since", async () => {
    server.down = true;
    open().edit({ body: "Unsaved." });
    server.down = false;
    server.change({ status: "scheduled" });
    const save = open();
    expect(save.snapshot()).toMatchObject({ restored: true, phase: "saved" });
    expect(save.snapshot().fields.body).toBe("Unsaved.");
    save.start();
    await settle();
    expect(server.post.body).toBe("Unsaved.");
  });

  it("of a draft that was just begun is put back too: what was refused, and what was typed meanwhile", async () => {
    const title = "🔭✨";
    vi.mocked(api.POST).mockImplementation(((_path: string, { body }: { body: Partial<Post> }) => {
      if (body.title === title)
        return no({
          status: 422,
          title: "",
          detail: "",
          errors: [{ location: "body.title", message: "No letter." }],
        } as Problem);
      save.edit({ excerpt: "In short." });
      server.post = { ...newPost({ id: 2, name: "Ines Abara" }), ...body, id: 9, version: 1 } as Post;
      return Promise.resolve({ data: server.post, response: new Response() });
    }) as unknown as typeof api.POST);
    const save = open(newPost({ id: 2, name: "Ines Abara" }));
    save.edit({ title, body: "Kept all the same." });
    await vi.advanceTimersByTimeAsync(750);
    expect(server.post.id).toBe(9);
    expect(open().snapshot().fields).toMatchObject({
      title,
      body: "Kept all the same.",
      excerpt: "In short.",
    });
  });

  it("is a conflict where that field was saved since", () => {
    open().edit({ body: "Unsaved." });
    server.change({ body: "Theirs." });
    expect(open().snapshot()).toMatchObject({ phase: "conflict", restored: true });
  });

  it("is forgotten once all is saved", async () => {
    const save = open();
    save.edit({ body: "New." });
    await settle();
    expect(open().snapshot()).toMatchObject({ restored: false, fields: fieldsOf(server.post) });
  });
});
