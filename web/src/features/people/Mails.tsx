import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState } from "react";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Sheet } from "../../ui/Sheet";
import { shownMoment } from "../../ui/siteClock";
import { Tick } from "../../ui/Tick";
import { TimeField } from "../../ui/TimeField";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useNow } from "../plan/now";
import { useStatus } from "../plan/status";
import { ZoneField } from "../settings/ZoneField";

type Digest = Schemas["Digest"];

const often = [
  { value: "never" as const, name: "No mails" },
  { value: "day" as const, name: "Every day" },
  { value: "week" as const, name: "Every week" },
  { value: "month" as const, name: "Every month" },
];

const weekdays = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"].map(
  (name, value) => ({ value, name: `on ${name}s` }),
);

const parts: { value: Digest["parts"][number]; name: string }[] = [
  { value: "held", name: "what needs a decision" },
  { value: "remarks", name: "what others say about your posts" },
  { value: "failed", name: "what could not be sent" },
  { value: "coming", name: "what is coming up" },
  { value: "expiring", name: "what is about to expire" },
  { value: "went out", name: "what went out" },
  { value: "runs", name: "what rules did" },
  { value: "results", name: "what sharing brought, monthly" },
];

/** What one is told of the blog by mail. */
export function Mails({ site }: { site: string }) {
  const kept = useQuery({
    queryKey: ["digest", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/digest", { params: { path: { site } } })),
  });
  if (kept.isPending) return <Waiting what="your mails" />;
  if (kept.error) return <Trouble error={kept.error} retry={() => void kept.refetch()} />;
  return <Form key={JSON.stringify(kept.data)} site={site} kept={kept.data} />;
}

function Form({ site, kept }: { site: string; kept: Digest }) {
  const queries = useQueryClient();
  const say = useSay();
  const now = useNow(useStatus(site).data?.now);
  const [wish, setWish] = useState(kept);
  const [looking, setLooking] = useState(false);
  const set = (change: Partial<Digest>) => setWish({ ...wish, ...change });
  const body: Digest = {
    every: wish.every,
    weekday: wish.weekday,
    at: wish.at,
    zone: wish.zone,
    parts: wish.parts,
  };
  const save = useMutation({
    mutationFn: () => answer(api.PUT("/api/v1/sites/{site}/digest", { params: { path: { site } }, body })),
    onSuccess: (saved) => {
      queries.setQueryData(["digest", site], saved);
      say.done(saved.every === "never" ? "No more mails about this blog." : "Saved.");
    },
  });
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const changed = JSON.stringify(wish) !== JSON.stringify(kept);
  return (
    <div className="max-w-xl space-y-3">
      {save.error && !refusal?.problem.errors && <Warning>{save.error.message}</Warning>}
      <div className="flex flex-wrap items-start gap-2">
        <div className="w-40">
          <Choice
            label="Mails about this blog"
            value={wish.every}
            options={often}
            onChange={(every) => set({ every })}
          />
        </div>
        {wish.every === "week" && (
          <div className="w-44">
            <Choice
              label="Weekday"
              value={wish.weekday}
              options={weekdays}
              onChange={(weekday) => set({ weekday })}
            />
          </div>
        )}
        {wish.every !== "never" && (
          <TimeField
            label="At"
            hideLabel
            value={wish.at}
            error={refusal?.field("at")}
            onChange={(at) => set({ at })}
          />
        )}
      </div>
      {wish.every !== "never" && (
        <>
          <ZoneField
            label="Your time zone"
            shown
            hint="Mails come by its clocks."
            value={wish.zone}
            error={refusal?.field("zone")}
            now={now?.millis ?? 0}
            onChange={(zone) => set({ zone })}
          />
          <div role="group" aria-label="What they tell" className="grid gap-1.5 sm:grid-cols-2">
            {parts.map((p) => (
              <Tick
                key={p.value}
                label={p.name}
                on={wish.parts.includes(p.value)}
                onChange={(on) =>
                  set({
                    parts: parts
                      .map((one) => one.value)
                      .filter((v) => (v === p.value ? on : wish.parts.includes(v))),
                  })
                }
              />
            ))}
          </div>
          {refusal?.field("parts") && (
            <p role="alert" className="text-xs text-madder">
              {refusal.field("parts")}
            </p>
          )}
          <p className="text-xs text-soft">
            They go to {kept.mail}. Where there is nothing to tell, none comes.
            {wish.every === "month" && " They come on the first of each month."}
            {kept.nextAt && ` The next one is due on ${shownMoment(kept.nextAt)}.`}
          </p>
        </>
      )}
      <div className="flex gap-2">
        <Button disabled={!changed || save.isPending} onClick={() => save.mutate()}>
          Save mails
        </Button>
        {wish.every !== "never" && (
          <Button look="quiet" onClick={() => setLooking(true)}>
            Show what it would say
          </Button>
        )}
      </div>
      {looking && <Look site={site} wish={body} onClose={() => setLooking(false)} />}
    </div>
  );
}

/** A mail as it would read now. */
function Look({ site, wish, onClose }: { site: string; wish: Digest; onClose: () => void }) {
  const mail = useQuery({
    queryKey: ["plan", site, "digest", wish],
    queryFn: () =>
      answer(api.POST("/api/v1/sites/{site}/digest/preview", { params: { path: { site } }, body: wish })),
  });
  return (
    <Sheet
      open
      onClose={onClose}
      title="What it would say now"
      actions={<Button onClick={onClose}>Close</Button>}
    >
      {mail.isPending ? (
        <p className="text-sm text-soft">Loading…</p>
      ) : mail.error ? (
        <Trouble error={mail.error} />
      ) : mail.data.text === "" ? (
        <p className="text-sm text-soft">There is nothing to tell right now, so no mail would come.</p>
      ) : (
        <>
          <p className="mb-2 font-semibold">{mail.data.subject}</p>
          <pre className="font-sans text-sm whitespace-pre-wrap wrap-anywhere">{mail.data.text}</pre>
        </>
      )}
    </Sheet>
  );
}
