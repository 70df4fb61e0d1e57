import { Description, Label, Radio, RadioGroup } from "@headlessui/react";
import { clock } from "../../ui/civil";
import type { NewBlogForm, Start } from "./begin";

/** A rhythm to begin with, each pictured by a week of it; or none. */
export function StartChoice({ form: { blog, begin, change } }: { form: NewBlogForm }) {
  const starts = begin?.starts ?? [];
  return (
    <RadioGroup
      aria-label="A rhythm to begin with"
      value={blog.start ?? ""}
      onChange={(start: string) => change({ start })}
      className="grid gap-3 sm:grid-cols-2"
    >
      {starts.map((s) => (
        <Radio
          key={s.key}
          value={s.key}
          autoFocus={s.key === blog.start}
          className="group flex cursor-pointer flex-col justify-between rounded-md border border-line bg-sheet p-3 data-checked:border-ink data-checked:outline data-checked:outline-ink"
        >
          <Title name={s.name} says={s.says} />
          <Week start={s} />
        </Radio>
      ))}
      <Radio
        value=""
        className="group cursor-pointer rounded-md border border-line bg-sheet p-3 data-checked:border-ink data-checked:outline data-checked:outline-ink sm:col-span-2"
      >
        <Title name="None yet" says="You set each time yourself, or draw a rhythm of your own later." />
      </Radio>
    </RadioGroup>
  );
}

function Title({ name, says }: { name: string; says: string }) {
  return (
    <div className="flex gap-2">
      <span className="mt-0.5 size-4 shrink-0 rounded-full border border-strong bg-sheet group-data-checked:border-[5px] group-data-checked:border-ink" />
      <span>
        <Label className="block text-base font-semibold">{name}</Label>
        <Description className="block text-sm text-soft">{says}</Description>
      </span>
    </div>
  );
}

const [begins, ends, rowHeight, left, width] = [6 * 60, 21 * 60, 11, 30, 270];
const x = (minute: number) =>
  left + ((Math.min(Math.max(minute, begins), ends) - begins) / (ends - begins)) * (width - left);
const dayNames = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/** A week of a rhythm as seven lengths of tape: where posts may come out, and where they do that week. */
function Week({ start }: { start: Start }) {
  const slots = start.week.flatMap((d, i) => d.slots.map((s) => `${dayNames[i]} ${clock(s.minute)}`));
  return (
    <svg
      viewBox={`0 0 ${width} ${7 * rowHeight + 12}`}
      role="img"
      aria-label={`In one week: ${slots.join(", ")}`}
      className="mt-2 w-full"
    >
      {start.week.map((day, i) => (
        <g key={day.date} transform={`translate(0 ${i * rowHeight})`}>
          <text x="0" y="8.5" className="fill-faint text-[8px]">
            {dayNames[i]}
          </text>
          <line x1={left} x2={width} y1={rowHeight - 0.5} y2={rowHeight - 0.5} stroke="var(--line)" />
          {day.openings.map((o) => (
            <rect
              key={`${o.opening} ${o.from}`}
              x={x(o.from)}
              y="1"
              width={Math.max(x(o.to) - x(o.from), 2)}
              height={rowHeight - 2}
              className="fill-open"
            />
          ))}
          {day.slots.map((s) => (
            <rect
              key={s.minute}
              x={x(s.minute) - 1.25}
              y="1"
              width="2.5"
              height={rowHeight - 2}
              className="fill-ink"
            />
          ))}
        </g>
      ))}
      {[8, 12, 16, 20].map((hour) => (
        <text
          key={hour}
          x={x(hour * 60)}
          y={7 * rowHeight + 9}
          textAnchor="middle"
          className="fill-faint text-[8px]"
        >
          {clock(hour * 60)}
        </text>
      ))}
    </svg>
  );
}
