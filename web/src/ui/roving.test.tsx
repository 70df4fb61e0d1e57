import { render, screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { expect, test } from "vitest";
import { Segments } from "./Segments";
import { WeekdayButtons } from "./WeekdayButtons";

function Form() {
  const [days, setDays] = useState<string[]>(["wednesday"]);
  const [view, setView] = useState("month");
  return (
    <>
      <WeekdayButtons chosen={days} onChange={setDays} />
      <Segments
        label="View"
        value={view}
        options={[
          { value: "tape", name: "Tape" },
          { value: "month", name: "Month" },
          { value: "list", name: "List" },
        ]}
        onChange={setView}
      />
    </>
  );
}

const here = () => document.activeElement?.textContent;

test("a row of buttons is one stop of Tab; arrows go along it", async () => {
  const keys = userEvent.setup();
  render(<Form />);
  await keys.tab();
  expect(here()).toBe("Wed");
  await keys.keyboard("{ArrowRight}{ArrowRight} ");
  expect(screen.getByText("Fri").ariaPressed).toBe("true");
  await keys.keyboard("{End}{ArrowRight}");
  expect(here()).toBe("Mon");
  await keys.tab();
  expect(here()).toBe("Month");
  await keys.keyboard("{ArrowRight}{Enter}{Home}");
  expect(here()).toBe("Tape");
  expect(screen.getByText("List").ariaPressed).toBe("true");
  await keys.tab({ shift: true });
  expect(here()).toBe("Wed");
});
