import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { MemoryRouter } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { api } from "../../api/client";
import { Toasts } from "../../ui/toast";
import type { Wish } from "../plan/reflow";
import { ReflowSheet } from "./ReflowSheet";

const client = new QueryClient();

/** The form as it begins with the first post, to make room for it or to schedule it. */
function Reflowed({ posts, by = "room" }: { posts: string[]; by?: "room" | "place" }) {
  const choices = posts.map((title) => ({ id: title.length, title }));
  return (
    <QueryClientProvider client={client}>
      <MemoryRouter>
        <Toasts>
          <ReflowSheet
            site="dome"
            start={{ do: by, posts: choices.slice(0, 1).map((c) => c.id) }}
            choices={choices}
            onClose={() => {}}
          />
        </Toasts>
      </MemoryRouter>
    </QueryClientProvider>
  );
}

/** What was asked of the server, as the posts of each wish. */
const asked: Wish["posts"][] = [];
let refuses = false;

beforeEach(() => {
  asked.length = 0;
  refuses = false;
  vi.spyOn(api, "POST").mockImplementation(((path: string, { body }: { body: { wish?: Wish } & Wish }) => {
    const wish = body.wish ?? body;
    asked.push(wish.posts);
    const refused = refuses && path.endsWith("/reflow");
    const reflow = {
      token: `of ${wish.posts}`,
      left: [],
      steps: [
        {
          id: wish.posts![0],
          title: `Post ${wish.posts}${refused ? " anew" : ""}`,
          author: "Ada",
          reason: "",
          past: false,
          pinned: false,
          to: { at: "2026-12-01T13:00:00Z", date: "2026-12-01", minute: 540 },
        },
      ],
    };
    return Promise.resolve(
      refused
        ? {
            error: { title: "Conflict", status: 409, detail: "The plan has changed.", reflow },
            response: new Response(null, { status: 409 }),
          }
        : { data: reflow, response: new Response() },
    );
  }) as never);
});
afterEach(() => vi.restoreAllMocks());

test("the form follows the plan until a post is chosen by hand", async () => {
  const hand = userEvent.setup();
  const { rerender } = render(<Reflowed posts={["Moon", "Comet"]} />);
  await screen.findByText("Post 4");

  // The first of the shelf was scheduled meanwhile, and another one cleared.
  rerender(<Reflowed posts={["Mars at dusk", "Comet"]} />);
  expect(screen.getByRole("button", { name: /put in: Mars at dusk$/ })).toBeTruthy();
  expect(screen.getByRole("button", { name: /^Move / }).getAttribute("aria-disabled")).toBe("true");
  await screen.findByText("Post 12");

  await hand.click(screen.getByRole("button", { name: /put in: Mars at dusk$/ }));
  await hand.click(screen.getByRole("option", { name: "Comet" }));
  await screen.findByText("Post 5");
  rerender(<Reflowed posts={["The road", "Comet"]} />);
  expect(screen.getByRole("button", { name: /put in: Comet$/ })).toBeTruthy();
  expect(asked).toEqual([[4], [12], [5]]);
});

test("a time that was given by hand keeps the form as it is", async () => {
  const hand = userEvent.setup();
  const { rerender } = render(<Reflowed by="place" posts={["Moon"]} />);
  await hand.click(await screen.findByRole("button", { name: "Change: Post 4" }));
  const time = screen.getByRole("textbox", { name: "Time of “Post 4”" });
  await hand.clear(time);
  await hand.type(time, "10:15{Tab}");
  await screen.findByText("Given a time by hand, and pinned there.");
  rerender(<Reflowed by="place" posts={["Mars at dusk"]} />);
  expect(screen.getByText("Given a time by hand, and pinned there.")).toBeTruthy();
  await hand.click(screen.getByRole("button", { name: "As proposed: Post 4" }));
  await screen.findByText("Post 12");
});

test("what a refusal proposes is for the wish that was refused, and its reason stays", async () => {
  const hand = userEvent.setup();
  const { rerender } = render(<Reflowed posts={["Moon"]} />);
  await screen.findByText("Post 4");
  refuses = true;
  await hand.click(await screen.findByRole("button", { name: "Move 1 post" }));
  await screen.findByText("The plan has changed.");
  expect(screen.getByText("Post 4 anew")).toBeTruthy();

  refuses = false;
  act(() => rerender(<Reflowed posts={["Mars at dusk"]} />));
  await screen.findByText("Post 12");
  expect(screen.getByText("The plan has changed.")).toBeTruthy();
});
