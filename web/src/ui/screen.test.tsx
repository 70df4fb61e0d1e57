import { act, render, screen as page } from "@testing-library/react";
import { Suspense, type ComponentType } from "react";
import { expect, test } from "vitest";
import { screen } from "./screen";

const Form = () => <input aria-label="Title" />;

function held() {
  let come = () => {};
  const code = new Promise<{ default: ComponentType }>((done) => {
    come = () => done({ default: Form });
  });
  return { code, come };
}

const at = (Screen: ComponentType, address: string) => (
  <Suspense fallback="Loading">
    <p>{address}</p>
    <Screen />
  </Suspense>
);

test("a screen whose code came late keeps what is typed when its address changes", async () => {
  const { code, come } = held();
  const { Screen } = screen(() => code);
  const { rerender } = render(at(Screen, "new"));
  await act(async () => {
    come();
    await code;
  });
  const field = await page.findByLabelText<HTMLInputElement>("Title");
  field.value = "A night of stars";
  rerender(at(Screen, "17"));
  expect(page.getByText("17")).toBeTruthy();
  expect(page.getByLabelText<HTMLInputElement>("Title").value).toBe("A night of stars");
});

test("a screen whose code is there already is drawn at once", async () => {
  const { code, come } = held();
  const { Screen, get } = screen(() => code);
  come();
  await get();
  render(at(Screen, "new"));
  expect(page.getByLabelText("Title")).toBeTruthy();
});
