import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState, type FormEvent } from "react";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Copied } from "../../ui/Copied";
import { Field, TextField } from "../../ui/Field";
import { Several } from "../../ui/Several";
import { shownMoment } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useTopics } from "../blog/topics";
import { kinds, statuses } from "../almanac/filter";
import { useLenses } from "../lenses/lenses";
import { usePeople } from "../blog/people";

type Status = NonNullable<Schemas["CalendarFeed"]["status"]> | "";
type Kind = NonNullable<Schemas["CalendarFeed"]["kind"]> | "";

const standings: { value: Status; name: string }[] = [
  { value: "", name: "any" },
  ...statuses.flatMap((s) => (s.value === "proposed" ? [] : [{ value: s.value as Status, name: s.name }])),
];

const kindsOf: { value: Kind; name: string }[] = [
  { value: "", name: "posts and pages" },
  ...kinds.map((k) => ({ value: k.value as Kind, name: k.name })),
];

/** Secret addresses at which calendar programs read the plan: made, listed, ended. */
export function Calendars({ site }: { site: string }) {
  const queries = useQueryClient();
  const key = ["calendars", site];
  const list = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/calendars", { params: { path: { site } } })),
  });
  const again = () => void queries.invalidateQueries({ queryKey: key });
  if (list.error) return <Warning>{list.error.message}</Warning>;
  return (
    <div className="space-y-3">
      <MakeCalendar site={site} onMade={again} />
      {list.data && list.data.length > 0 && (
        <ul aria-label="Calendars" className="divide-y divide-line border-y border-line text-sm">
          {list.data.map((c) => (
            <CalendarRow key={c.id} site={site} calendar={c} onEnded={again} />
          ))}
        </ul>
      )}
    </div>
  );
}

function MakeCalendar({ site, onMade }: { site: string; onMade: () => void }) {
  const [name, setName] = useState("");
  const [authors, setAuthors] = useState<number[]>([]);
  const [categories, setCategories] = useState<number[]>([]);
  const [status, setStatus] = useState<Status>("");
  const [kind, setKind] = useState<Kind>("");
  const [lacking, setLacking] = useState("");
  const lenses = (useLenses(site).data ?? []).filter((l) => l.plan);
  const people = usePeople(site).data ?? [];
  const topics = useTopics(site).data?.categories ?? [];
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/calendars", {
          params: { path: { site } },
          body: { name, authors, categories, ...(status ? { status } : {}), ...(kind ? { kind } : {}) },
        }),
      ),
    onSuccess: () => {
      setName("");
      onMade();
    },
  });
  const refusal = make.error instanceof Refusal ? make.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    make.mutate();
  }
  /** Takes the filter of a lens, as far as a calendar can have it. */
  function like(id: number) {
    const lens = lenses.find((l) => l.id === id);
    if (!lens?.plan) return;
    const { status: stands = "", kind = "" } = lens.plan;
    setName(lens.name);
    setAuthors(lens.plan.authors ?? []);
    setCategories(lens.plan.categories ?? []);
    setStatus(stands === "proposed" ? "" : stands);
    setKind(kind);
    setLacking(
      stands === "proposed" ? "Proposed drafts have no time yet, so a calendar leaves them out." : "",
    );
  }
  return (
    <form onSubmit={submit} className="space-y-2">
      {make.error && !refusal?.problem.errors && <Warning>{make.error.message}</Warning>}
      <div className="flex flex-wrap items-start gap-3">
        {lenses.length > 0 && (
          <div className="w-40">
            <Field label="Same filters as">
              <Choice
                label="Same filters as"
                value={0}
                options={[
                  { value: 0, name: "choose one" },
                  ...lenses.map((l) => ({ value: l.id, name: l.name })),
                ]}
                onChange={like}
              />
            </Field>
          </div>
        )}
        <div className="w-44">
          <TextField
            label="Name"
            value={name}
            error={refusal?.field("name")}
            onChange={(e) => setName(e.target.value)}
          />
        </div>
        <div className="w-40">
          <Field label="Authors">
            <Several
              label="Authors"
              any="any author"
              many="authors"
              values={authors}
              options={people.map((p) => ({ value: p.id, name: p.name }))}
              onChange={setAuthors}
            />
          </Field>
        </div>
        <div className="w-40">
          <Field label="Categories">
            <Several
              label="Categories"
              any="any category"
              many="categories"
              values={categories}
              options={topics.map((c) => ({ value: c.id, name: c.name }))}
              onChange={setCategories}
            />
          </Field>
        </div>
        <div className="w-40">
          <Field label="Status">
            <Choice label="Status" value={status} options={standings} onChange={setStatus} />
          </Field>
        </div>
        <div className="w-44">
          <Field label="Kind">
            <Choice label="Kind" value={kind} options={kindsOf} onChange={setKind} />
          </Field>
        </div>
        <Button type="submit" className="mt-5.5" disabled={name.trim() === "" || make.isPending}>
          Create calendar
        </Button>
      </div>
      {lacking && <Warning>{lacking}</Warning>}
      {make.data?.address && (
        <div role="status" className="space-y-1">
          <p className="text-sm">Subscribe to this address in your calendar app. It is shown only once:</p>
          <Copied label="Address of the calendar" text={make.data.address} />
        </div>
      )}
    </form>
  );
}

type RowProps = { site: string; calendar: Schemas["CalendarFeed"]; onEnded: () => void };

function CalendarRow({ site, calendar, onEnded }: RowProps) {
  const say = useSay();
  const end = useMutation({
    mutationFn: () =>
      answer(
        api.DELETE("/api/v1/sites/{site}/calendars/{calendar}", {
          params: { path: { site, calendar: calendar.id } },
        }),
      ),
    onSuccess: () => say.done(`Calendar “${calendar.name}” removed.`),
    onError: say.trouble,
    onSettled: onEnded,
  });
  return (
    <li className="flex min-h-11 items-center gap-3 py-1">
      <div className="min-w-0 flex-1">
        <p className="truncate">{calendar.name}</p>
        <p className="text-soft">
          {filterWords(calendar)}
          {calendar.read ? `last read ${shownMoment(calendar.read)}` : "never read"}
        </p>
      </div>
      <Button
        look="quiet"
        aria-label={`Remove ${calendar.name}`}
        disabled={end.isPending}
        onClick={() => end.mutate()}
      >
        Remove
      </Button>
    </li>
  );
}

/** What of the plan a calendar shows, apart from author and category, which its name tells. */
function filterWords({ status, kind }: Schemas["CalendarFeed"]): string {
  const words = [
    status && standings.find((s) => s.value === status)?.name,
    kind && kindsOf.find((k) => k.value === kind)?.name,
  ].filter(Boolean);
  return words.length > 0 ? `${words.join(", ")}; ` : "";
}
