import { X } from "lucide-react";
import { useRef, useState, type ChangeEvent } from "react";
import { z } from "zod";
import { Button } from "../../ui/Button";
import { dateParts } from "../../ui/civil";
import { DateField } from "../../ui/DateField";
import { TextField } from "../../ui/Field";
import { date, dateIfAny } from "../../ui/schema";
import { Tick } from "../../ui/Tick";
import { Warning } from "../../ui/Trouble";
import { isDate } from "../../ui/typed";
import { useFormOf } from "../../ui/useFormOf";
import { useReadRests, type Rest } from "./rhythm";

type Props = {
  site: string;
  rests: Rest[];
  /** Those that are saved. */
  saved: Rest[];
  problem: (path: string) => string | undefined;
  onChange: (rests: Rest[]) => void;
};

/** The dates on which nothing is placed: a day, a range, once or every year, by hand or from a calendar file. */
export function Rests({ site, rests, saved, problem, onChange }: Props) {
  const wrong = rests.flatMap((_, i) => problem(`rests[${i}].last`) ?? [])[0] ?? problem("rests");
  return (
    <section aria-labelledby="rests" className="mb-5">
      <h2 id="rests" className="mb-1 text-base font-semibold">
        Rest days
        <span className="ml-3 text-sm font-normal text-soft">nothing is placed on them</span>
      </h2>
      <AddRest onAdd={(rest) => onChange(inOrder([...rests, rest]))} />
      <FromFile
        site={site}
        onFound={(found) =>
          onChange(inOrder([...rests, ...found.filter((f) => !rests.some((r) => same(r, f)))]))
        }
      />
      {wrong && <Warning>{wrong}</Warning>}
      {rests.length > 0 && (
        <ul aria-label="Rest days" className="mt-2 flex max-h-48 flex-wrap gap-1 overflow-y-auto">
          {rests.map((r) => (
            <li
              key={`${r.first} ${r.last ?? ""} ${r.yearly ? "y" : ""} ${r.name ?? ""}`}
              className={`flex items-center rounded-sm border pl-2 text-sm ${saved.some((s) => same(s, r)) ? "border-transparent bg-sunk" : "border-dashed border-chalk"}`}
            >
              {r.name && <span className="mr-1.5 max-w-48 truncate font-medium">{r.name}</span>}
              <span className={r.name ? "text-soft" : ""}>{words(r)}</span>
              {!saved.some((s) => same(s, r)) && <span className="ml-1.5 text-chalk">not saved yet</span>}
              <button
                type="button"
                aria-label={`Remove the rest day ${r.name ? `${r.name}, ` : ""}${words(r)}`}
                onClick={() => onChange(rests.filter((other) => other !== r))}
                className="p-1 text-soft hover:text-ink"
              >
                <X size={12} />
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

const inOrder = (rests: Rest[]) => rests.toSorted((a, b) => a.first.localeCompare(b.first));

const same = (a: Rest, b: Rest) =>
  a.first === b.first &&
  (a.last ?? a.first) === (b.last ?? b.first) &&
  Boolean(a.yearly) === Boolean(b.yearly);

/** "24 to 26 Dec, every year" */
function words({ first, last, yearly }: Rest): string {
  const a = dateParts(first);
  const from = yearly ? `${a.day} ${a.month}` : `${a.day} ${a.month} ${first.slice(0, 4)}`;
  if (!last || last === first) return yearly ? `${from}, every year` : from;
  const b = dateParts(last);
  const to = yearly ? `${b.day} ${b.month}` : `${b.day} ${b.month} ${last.slice(0, 4)}`;
  return yearly ? `${from} to ${to}, every year` : `${from} to ${to}`;
}

const restSchema = z
  .object({ first: date, last: dateIfAny, name: z.string(), yearly: z.boolean() })
  .refine(({ first, last }) => !last || !isDate(last) || last >= first, {
    path: ["last"],
    message: "This is before the first day.",
  });

const noRest = { first: "", last: "", name: "", yearly: false };

function AddRest({ onAdd }: { onAdd: (rest: Rest) => void }) {
  const form = useFormOf(restSchema, noRest);
  const { values, set } = form;
  const add = () =>
    form.submit(({ first, last, name, yearly }) => {
      onAdd({
        first,
        ...(last && last !== first ? { last } : {}),
        ...(yearly ? { yearly } : {}),
        ...(name.trim() ? { name: name.trim() } : {}),
      });
      form.take(noRest);
    });
  return (
    <div className="flex flex-wrap items-start gap-2">
      <DateField
        label="From"
        value={values.first}
        error={form.problem("first")}
        onChange={(first) => set({ first })}
      />
      <DateField
        label="To"
        optional
        placeholder="the same day"
        value={values.last ?? ""}
        error={form.problem("last")}
        onChange={(last) => set({ last })}
      />
      <div className="w-44">
        <TextField
          label="Name"
          placeholder="none"
          value={values.name}
          maxLength={200}
          onChange={(e) => set({ name: e.target.value })}
        />
      </div>
      <div className="mt-6 flex h-8 items-center">
        <Tick label="Every year" on={values.yearly} onChange={(yearly) => set({ yearly })} />
      </div>
      <Button className="mt-6" onClick={add}>
        Add rest day
      </Button>
    </div>
  );
}

/** Reads a calendar file; what is in it is looked through before any of it is added. */
function FromFile({ site, onFound }: { site: string; onFound: (rests: Rest[]) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const read = useReadRests(site);
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  function choose(event: ChangeEvent<HTMLInputElement>) {
    const file = event.target.files?.[0];
    event.target.value = "";
    if (!file) return;
    setOff(new Set());
    read.mutate(file);
  }
  const found = read.data;
  const taken = found?.rests.filter((_, i) => !off.has(i)) ?? [];
  return (
    <div className="mt-2">
      <input
        ref={input}
        type="file"
        accept=".ics,text/calendar"
        aria-label="Calendar file"
        className="sr-only"
        tabIndex={-1}
        onChange={choose}
      />
      <Button disabled={read.isPending} onClick={() => input.current?.click()}>
        From a calendar file (.ics)…
      </Button>
      {read.error && <Warning>{read.error.message}</Warning>}
      {found && (
        <div className="mt-2 max-w-xl rounded-md border border-line bg-sheet px-3 py-2 text-sm">
          {found.rests.length === 0 ? (
            <p>The file has no all-day events, so there are no rest days in it.</p>
          ) : (
            <ul className="max-h-56 space-y-1 overflow-y-auto">
              {found.rests.map((r, i) => (
                <li key={`${r.first}${r.name ?? ""}`}>
                  <Tick
                    label={`${r.name ?? ""} (${words(r)})`}
                    on={!off.has(i)}
                    onChange={(on) => {
                      const next = new Set(off);
                      if (on) next.delete(i);
                      else next.add(i);
                      setOff(next);
                    }}
                  />
                </li>
              ))}
            </ul>
          )}
          {found.leftOut > 0 && (
            <details className="mt-2 text-soft">
              <summary>
                {found.leftOut === 1 ? "1 event was left out" : `${found.leftOut} events were left out`}
              </summary>
              <ul className="mt-1 max-h-40 overflow-y-auto">
                {found.left.map((l, i) => (
                  <li key={i}>
                    <span className="font-medium">{l.name}</span>: {l.why}
                  </li>
                ))}
              </ul>
            </details>
          )}
          <div className="mt-2 flex gap-2">
            <Button
              disabled={taken.length === 0}
              onClick={() => {
                onFound(taken);
                read.reset();
              }}
            >
              Add {taken.length === 1 ? "1 rest day" : `${taken.length} rest days`}
            </Button>
            <Button look="quiet" onClick={() => read.reset()}>
              Add none
            </Button>
          </div>
        </div>
      )}
    </div>
  );
}
