import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { z } from "zod";
import { Button } from "./Button";
import { Choice } from "./Choice";
import { DateField } from "./DateField";
import { NumberField, OptionalNumberField } from "./NumberField";
import { date, named, timeOfDay, whole } from "./schema";
import { setServerNow, setSiteZone } from "./siteClock";
import { Tick } from "./Tick";
import { TimeField } from "./TimeField";
import { useFormOf } from "./useFormOf";

const schema = z.object({
  name: named("Give it a name."),
  at: timeOfDay,
  on: date,
  gap: whole,
  most: whole.optional(),
});

type Values = z.infer<typeof schema>;

const kept: Values = { name: "Week", at: "09:40", on: "2026-12-04", gap: 60, most: undefined };

function Form({ saved = kept, onSave }: { saved?: Values; onSave: (v: Values) => void }) {
  const { values, set, changed, problem, submit } = useFormOf(schema, saved);
  return (
    <>
      <label>
        Name <input value={values.name} onChange={(e) => set({ name: e.target.value })} />
      </label>
      <p>{problem("name") ?? "nothing wrong"}</p>
      <TimeField label="At" value={values.at} error={problem("at")} onChange={(at) => set({ at })} />
      <DateField label="On" value={values.on} error={problem("on")} onChange={(on) => set({ on })} />
      <NumberField label="Gap" value={values.gap} error={problem("gap")} onChange={(gap) => set({ gap })} />
      <OptionalNumberField
        label="Most"
        placeholder="any"
        value={values.most}
        onChange={(most) => set({ most })}
      />
      <p>{changed ? "changed" : "as saved"}</p>
      <Button onClick={() => submit(onSave)}>Save</Button>
    </>
  );
}

const field = (name: string) => screen.getByLabelText<HTMLInputElement>(name);

async function write(name: string, text: string) {
  await userEvent.clear(field(name));
  if (text) await userEvent.type(field(name), text);
}

beforeEach(() => {
  setSiteZone("America/Halifax");
  setServerNow("2026-11-28T02:30:00Z"); // 22:30 on the 27th at the site
});

describe("a form", () => {
  it.each([
    ["At", "25:99"],
    ["On", "30 Feb"],
    ["Gap", "many"],
    ["Most", "-1"],
    ["Gap", ""],
    ["On", ""],
  ])("does not save while %s holds %j, keeps what was typed, and says what is wrong", async (name, text) => {
    const save = vi.fn();
    render(<Form onSave={save} />);
    await write(name, text);
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(save).not.toHaveBeenCalled();
    expect(field(name).value).toBe(text);
    expect(field(name).getAttribute("aria-invalid")).toBe("true");
    await vi.waitFor(() => expect(document.activeElement).toBe(field(name)));
  });

  it("saves what was typed as people type it", async () => {
    const save = vi.fn();
    render(<Form onSave={save} />);
    await write("At", "940 pm".replace("940", "9.40"));
    await write("On", "tomorrow");
    await write("Gap", "45");
    await write("Most", "3");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await vi.waitFor(() =>
      expect(save).toHaveBeenCalledWith({ ...kept, at: "21:40", on: "2026-11-28", gap: 45, most: 3 }),
    );
    expect(field("On").value).toBe("Sat 28 Nov");
  });

  it("takes 0 for no limit, and shows it as none", async () => {
    const save = vi.fn();
    render(<Form saved={{ ...kept, most: 5 }} onSave={save} />);
    await write("Most", "0");
    await userEvent.tab();
    expect(field("Most").value).toBe("");
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    await vi.waitFor(() => expect(save).toHaveBeenCalledWith({ ...kept, most: undefined }));
  });

  it("shows nothing as wrong before one has had the chance to do it right", async () => {
    render(<Form saved={{ ...kept, name: "" }} onSave={() => {}} />);
    expect(screen.getByText("nothing wrong")).toBeTruthy();
    await userEvent.type(field("At"), "x"); // still being typed
    expect(field("At").getAttribute("aria-invalid")).not.toBe("true");
    await userEvent.tab();
    expect(field("At").getAttribute("aria-invalid")).toBe("true");
    expect(screen.getByText("nothing wrong")).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Save" }));
    expect(await screen.findByText("Give it a name.")).toBeTruthy();
  });

  it("knows whether it is as it was saved", async () => {
    render(<Form onSave={() => {}} />);
    await write("Gap", "61");
    expect(screen.getByText("changed")).toBeTruthy();
    await write("Gap", "60");
    expect(screen.getByText("as saved")).toBeTruthy();
    await write("Most", "3");
    expect(screen.getByText("changed")).toBeTruthy();
    await write("Most", "");
    expect(screen.getByText("as saved")).toBeTruthy();
  });
});

describe("a date field", () => {
  function One({ optional = false }: { optional?: boolean }) {
    const [value, setValue] = useState("");
    return (
      <>
        <DateField label="On" optional={optional} value={value} onChange={setValue} />
        <output>{value}</output>
      </>
    );
  }
  const value = () => screen.getByRole("status").textContent;

  it("takes its year and its today from the site, not from the browser", async () => {
    render(<One />);
    await userEvent.type(field("On"), "today");
    expect(value()).toBe("2026-11-27");
    await write("On", "4 Jan");
    await userEvent.tab();
    expect(value()).toBe("2027-01-04");
    expect(field("On").value).toBe("Mon 4 Jan 2027");
  });

  it("may be empty where that means something", async () => {
    render(<One optional />);
    await userEvent.type(field("On"), "4 Dec");
    await userEvent.clear(field("On"));
    await userEvent.tab();
    expect(value()).toBe("");
    expect(field("On").getAttribute("aria-invalid")).not.toBe("true");
  });

  it("is picked from a month, by keys alone", async () => {
    render(<One />);
    await userEvent.type(field("On"), "4 Dec");
    await userEvent.tab();
    await userEvent.keyboard("{Enter}");
    const month = await screen.findByRole("application", {}, { timeout: 5000 });
    expect(month.getAttribute("aria-label")).toContain("December 2026");
    await vi.waitFor(() => expect(document.activeElement?.textContent).toBe("4"));
    await userEvent.keyboard("{ArrowDown}{ArrowRight}{Enter}");
    expect(value()).toBe("2026-12-12");
    await vi.waitFor(() => expect(field("On").value).toBe("Sat 12 Dec"));
  });
});

describe("a choice in a form", () => {
  it("opens by Enter and does not send the form", async () => {
    const send = vi.fn((e: { preventDefault: () => void }) => e.preventDefault());
    function Invitation() {
      const [role, setRole] = useState("contributor");
      return (
        <form onSubmit={send}>
          <Choice
            label="Role"
            value={role}
            options={[
              { value: "contributor", name: "Contributor" },
              { value: "editor", name: "Editor" },
            ]}
            onChange={setRole}
          />
          <button type="submit">Invite</button>
        </form>
      );
    }
    render(<Invitation />);
    screen.getByRole("button", { name: "Role: Contributor" }).focus();
    await userEvent.keyboard("{Enter}");
    expect(await screen.findByRole("option", { name: "Editor" })).toBeTruthy();
    await userEvent.keyboard("{ArrowDown}{Enter}");
    expect(screen.getByRole("button", { name: "Role: Editor" })).toBeTruthy();
    expect(send).not.toHaveBeenCalled();
  });
});

describe("a button that can do nothing just now", () => {
  it("keeps the focus and does nothing", async () => {
    const act = vi.fn();
    const { rerender } = render(<Button onClick={act}>Save</Button>);
    screen.getByRole("button").focus();
    rerender(
      <Button onClick={act} disabled>
        Save
      </Button>,
    );
    expect(document.activeElement).toBe(screen.getByRole("button"));
    await userEvent.keyboard("{Enter}");
    await userEvent.click(screen.getByRole("button"));
    expect(act).not.toHaveBeenCalled();
  });
});

describe("a tick", () => {
  it("is ticked by its words, too", async () => {
    function One() {
      const [on, setOn] = useState(false);
      return <Tick label="Every year" on={on} onChange={setOn} />;
    }
    render(<One />);
    await userEvent.click(screen.getByText("Every year"));
    expect(screen.getByRole("checkbox", { name: "Every year" }).getAttribute("aria-checked")).toBe("true");
  });
});
