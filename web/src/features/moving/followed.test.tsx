import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import { Toasts } from "../../ui/toast";
import type { Almanac } from "../plan/almanac";
import { Moving } from "./Moving";

const planOf = (version: number) =>
  ({ drafts: [], shelf: [], held: [], days: [], now: { date: "2026-12-01" }, version }) as unknown as Almanac;

/** A plan in which each post has a mark in the row of a day; other days have other marks. */
function Plan({ version, rows }: { version: number; rows: Record<string, number[]> }) {
  return (
    <QueryClientProvider client={new QueryClient()}>
      <MemoryRouter>
        <Toasts>
          <Moving
            site="dome"
            plan={planOf(version)}
            enabled
            picked={new Set()}
            onPick={() => {}}
            chosenBar={() => null}
          >
            {Object.entries(rows).map(([day, posts]) => (
              <div key={day}>
                {posts.map((id) => (
                  <button key={id} data-post={id}>
                    {day} {id}
                  </button>
                ))}
              </div>
            ))}
          </Moving>
        </Toasts>
        <button>elsewhere</button>
      </MemoryRouter>
    </QueryClientProvider>
  );
}

test("the focus stays on a post that was moved to another day", () => {
  const { rerender } = render(<Plan version={1} rows={{ Mon: [1, 2], Tue: [3] }} />);
  act(() => screen.getByText("Mon 2").focus());
  rerender(<Plan version={2} rows={{ Mon: [1], Tue: [2, 3] }} />);
  expect(document.activeElement).toBe(screen.getByText("Tue 2"));
});

test("the focus is not fetched back from elsewhere", async () => {
  const { rerender } = render(<Plan version={1} rows={{ Mon: [1, 2] }} />);
  act(() => screen.getByText("Mon 2").focus());
  act(() => screen.getByText("elsewhere").focus());
  rerender(<Plan version={2} rows={{ Mon: [1], Tue: [2] }} />);
  expect(document.activeElement).toBe(screen.getByText("elsewhere"));

  act(() => screen.getByText("Mon 1").focus());
  act(() => screen.getByText("Mon 1").blur());
  await act(() => Promise.resolve());
  rerender(<Plan version={3} rows={{ Mon: [], Tue: [1, 2] }} />);
  expect(document.activeElement).toBe(document.body);
});
