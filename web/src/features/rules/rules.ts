import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { z } from "zod";
import { answer, api, type Schemas } from "../../api/client";
import { useRefresh } from "../../api/live";
import { date, dateIfAny, named, timeOfDay, whole } from "../../ui/schema";
import { openingsSchema } from "../rhythm/rhythm";
import { useSettled } from "../../ui/useSettled";

export type Rule = Schemas["Rule"];
export type RuleBody = Schemas["RuleBody"];
export type Rules = Omit<Schemas["Rules"], "forms"> & { forms: Form[] };
export type Preview = Schemas["RulePreview"];
export type Condition = Schemas["Node"];
export type Way = Schemas["Way"] & { begin: Condition };
export type Form = Omit<Schemas["Form"], "ways"> & { ways: Way[] };
export type Caught = Schemas["CaughtPost"];
export type Cadence = Schemas["Cadence"];
export type Span = Schemas["Span"];
export type Vocabulary = Schemas["Vocabulary"];
export type Kind = RuleBody["kind"];

const span = z.looseObject({ n: whole });

const condition: z.ZodType = z.lazy(() =>
  z.looseObject({
    n: whole.optional(),
    days: whole.optional(),
    date: date.optional(),
    parts: z.array(condition).optional(),
  }),
);

/** What of a rule is typed. What is wrong with it besides, the preview says. */
export const ruleSchema = z.looseObject({
  name: named("Give the rule a name."),
  condition,
  cadence: z.looseObject({
    n: whole.optional(),
    at: timeOfDay.optional(),
    sway: whole.optional(),
    openings: openingsSchema.optional(),
  }),
  mostARun: whole.optional(),
  tellDays: whole.optional(),
  readDays: whole.optional(),
  sayAfter: whole.optional(),
  mostSeconds: whole.optional(),
  youngest: span.optional(),
  oldest: span.optional(),
  apart: whole.optional(),
  most: whole.optional(),
  atATime: whole.optional(),
  from: timeOfDay.optional(),
  to: timeOfDay.optional(),
  between: whole.optional(),
  replyAfter: whole.optional(),
  starts: dateIfAny,
  ends: dateIfAny,
}) as unknown as z.ZodType<RuleBody, RuleBody>;

export const kinds: Record<Kind, { name: string; one: string; what: string; none: string }> = {
  expire: {
    name: "Expiry",
    one: "expiry rule",
    what: "Takes down posts that are out of date, or marks them.",
    none: "Nothing expires yet. An expiry rule could archive each event the day after.",
  },
  republish: {
    name: "Republishing",
    one: "republish rule",
    what: "Brings good old posts back with a new date.",
    none: "Nothing is republished yet. A republish rule could bring back one evergreen each Sunday.",
  },
  reshare: {
    name: "Resharing",
    one: "reshare rule",
    what: "Shares posts on a network, one after another.",
    none: "Nothing is reshared yet. A reshare rule could share one how-to a day.",
  },
};

export function useRules(site: string) {
  return useQuery({
    queryKey: ["plan", site, "rules"],
    queryFn: async () => {
      const rules = await answer(api.GET("/api/v1/sites/{site}/rules", { params: { path: { site } } }));
      const begin = (test: string, match: string) =>
        rules.tests.find((t) => t.test === test && t.match === match)!;
      const forms = rules.forms.map((f) => ({
        ...f,
        ways: f.ways.map((w) => ({ ...w, begin: begin(f.test, w.match) })),
      }));
      // How far the server's clock is ahead of the browser's, in milliseconds.
      return { ...rules, forms, ahead: Date.parse(rules.now.at) - Date.now() };
    },
  });
}

/** What the rule catches, as it stands in the form; asked for once typing rests. */
export function usePreview(site: string, id: number, rule: RuleBody, offset: number) {
  const settled = useSettled(rule, 300);
  const coming = settled.kind !== "expire";
  const query = useQuery({
    queryKey: ["plan", site, "rule-preview", id, settled, offset],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/rules/preview", {
          params: { path: { site } },
          body: { id, rule: settled, offset, coming },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  return { ...query, current: settled === rule && !query.isPlaceholderData };
}

/** Why the rule catches a post, or does not. */
export function useWhy(site: string, id: number, rule: RuleBody, post: number | undefined) {
  return useQuery({
    queryKey: ["plan", site, "rule-why", id, rule, post],
    queryFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/rules/why", {
          params: { path: { site } },
          body: { id, rule, post: post ?? 0 },
        }),
      ),
    enabled: post !== undefined,
    placeholderData: keepPreviousData,
  });
}

export function useHistory(site: string, id: number) {
  return useQuery({
    queryKey: ["plan", site, "rule-runs", id],
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/rules/{id}/runs", { params: { path: { site, id } } })),
    enabled: id > 0,
  });
}

/** Rules with those of a kind in an order. */
function inOrder(rules: Rule[], kind: Kind, ids: number[]): Rule[] {
  const ordered = ids.flatMap((id) => rules.find((r) => r.id === id) ?? []);
  return rules.map((r) => (r.kind === kind ? (ordered.shift() ?? r) : r));
}

type RulesNow = Rules & { ahead: number };

/** Deeds to rules; each refreshes all that shows the plan. */
export function useRuleDeeds(site: string) {
  const queries = useQueryClient();
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules", "plan");
  const path = (id: number) => ({ params: { path: { site, id } } });
  type Agreement = { id: number; version: number; token: string; confirm: number };
  return {
    save: useMutation({
      mutationFn: ({ id, body }: { id: number; body: RuleBody }) =>
        id === 0
          ? answer(api.POST("/api/v1/sites/{site}/rules", { params: { path: { site } }, body }))
          : answer(api.PUT("/api/v1/sites/{site}/rules/{id}", { ...path(id), body })),
      onSuccess: (kept) =>
        // Its screen may be shown before the list has been fetched anew.
        queries.setQueryData(
          ["plan", site, "rules"],
          (all: RulesNow | undefined) =>
            all && {
              ...all,
              rules: all.rules.some((r) => r.id === kept.id)
                ? all.rules.map((r) => (r.id === kept.id ? kept : r))
                : [...all.rules, kept],
            },
        ),
      onSettled,
    }),
    arm: useMutation({
      mutationFn: ({ id, ...body }: Agreement) =>
        answer(api.POST("/api/v1/sites/{site}/rules/{id}/arm", { ...path(id), body })),
      onSettled,
    }),
    run: useMutation({
      mutationFn: ({ id, ...body }: Agreement) =>
        answer(api.POST("/api/v1/sites/{site}/rules/{id}/run", { ...path(id), body })),
      onSettled,
    }),
    disarm: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(api.POST("/api/v1/sites/{site}/rules/{id}/disarm", { ...path(id), body: { version } })),
      onSettled,
    }),
    order: useMutation({
      mutationFn: (body: { kind: Kind; ids: number[] }) =>
        answer(api.PUT("/api/v1/sites/{site}/rules/order", { params: { path: { site } }, body })),
      onMutate: ({ kind, ids }) =>
        queries.setQueryData(
          ["plan", site, "rules"],
          (all: RulesNow | undefined) => all && { ...all, rules: inOrder(all.rules, kind, ids) },
        ),
      onSettled,
    }),
    remove: useMutation({
      mutationFn: ({ id, version }: { id: number; version: number }) =>
        answer(
          api.DELETE("/api/v1/sites/{site}/rules/{id}", {
            params: { path: { site, id }, query: { version } },
          }),
        ),
    }),
    pick: useMutation({
      mutationFn: ({ id, post, picked }: { id: number; post: number; picked: boolean }) =>
        answer(
          api.PUT("/api/v1/sites/{site}/rules/{id}/picks/{post}", {
            params: { path: { site, id, post } },
            body: { picked },
          }),
        ),
      onSettled,
    }),
    exclude: useMutation({
      mutationFn: ({ id, post, excluded }: { id: number; post: number; excluded: boolean }) =>
        answer(
          api.PUT("/api/v1/sites/{site}/rules/{id}/exclusions/{post}", {
            params: { path: { site, id, post } },
            body: { excluded },
          }),
        ),
      onSettled,
    }),
  };
}

/** What of a rule is the editor's to write. */
export function bodyOf(rule: Rule): RuleBody {
  const theirs = [
    "id",
    "state",
    "heldWhy",
    "sentence",
    "often",
    "channel",
    "next",
    "last",
    "nextOnServer",
    "lastOnServer",
    "leadsToTitle",
  ];
  return Object.fromEntries(Object.entries(rule).filter(([key]) => !theirs.includes(key))) as RuleBody;
}

/** By how much a message is too long, in words. */
export function over(n: number): string {
  return n === 1 ? "1 character over" : `${n} characters over`;
}
