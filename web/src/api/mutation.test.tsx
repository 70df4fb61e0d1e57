import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { useMutation } from "./mutation";

it("tells whoever asked, though they are gone by then", async () => {
  const ends: ((failed?: Error) => void)[] = [];
  const said: string[] = [];
  function Panel() {
    const deed = useMutation({
      mutationFn: (wish: string) =>
        new Promise<string>((done, fail) =>
          ends.push((failed) => (failed ? fail(failed) : done(`${wish} done`))),
        ),
    });
    const ask = () =>
      deed.mutate("It is", {
        onSuccess: (data) => said.push(data),
        onError: (error) => said.push(error.message),
        onSettled: () => said.push("settled"),
      });
    return <button onClick={ask}>Do it</button>;
  }
  const client = new QueryClient();
  const shown = render(<Panel />, {
    wrapper: ({ children }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>,
  });
  act(() => screen.getByText("Do it").click());
  act(() => screen.getByText("Do it").click());
  await vi.waitFor(() => expect(ends).toHaveLength(2));
  shown.unmount();
  ends[0]!();
  await vi.waitFor(() => expect(said).toEqual(["It is done", "settled"]));
  ends[1]!(new Error("It is not"));
  await vi.waitFor(() => expect(said).toEqual(["It is done", "settled", "It is not", "settled"]));
});
