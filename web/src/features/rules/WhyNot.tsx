import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { inputLook } from "../../ui/Field";
import { useSettled } from "../../ui/useSettled";
import { useWhy, type RuleBody } from "./rules";

/** Why not this one? Explains the rule's verdict on any post. */
export function WhyNot({ site, id, rule }: { site: string; id: number; rule: RuleBody }) {
  const [typed, setTyped] = useState("");
  const [post, setPost] = useState<number>();
  const wanted = useSettled(typed.trim(), 200);
  const found = useQuery({
    queryKey: ["plan", site, "find", wanted],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/titles", { params: { path: { site }, query: { title: wanted } } }),
      ),
    enabled: wanted.length > 1,
    placeholderData: keepPreviousData,
  });
  const why = useWhy(site, id, rule, post);
  return (
    <div className="mt-4">
      <h3 className="mb-1 text-sm font-semibold">Why not this one?</h3>
      <Combobox<number | null> value={null} onChange={(chosen) => setPost(chosen ?? undefined)}>
        <ComboboxInput
          aria-label="Find a post by its title"
          placeholder="a post’s title"
          className={inputLook}
          displayValue={() => typed}
          onChange={(e) => setTyped(e.target.value)}
          autoComplete="off"
        />
        <ComboboxOptions
          anchor="bottom start"
          className="z-50 w-(--input-width) rounded-md border border-strong bg-sheet py-1 shadow-lifted [--anchor-gap:4px] empty:hidden"
        >
          {(found.data?.posts ?? []).map((p) => (
            <ComboboxOption
              key={p.id}
              value={p.id}
              className="truncate px-2 py-1.5 text-base data-focus:bg-sunk"
            >
              {p.title}
            </ComboboxOption>
          ))}
        </ComboboxOptions>
      </Combobox>
      {why.data && post !== undefined && (
        <p role="status" className="mt-2 text-sm">
          <span className="font-medium">“{why.data.title}”</span> is{" "}
          {why.data.caught ? "caught" : "not caught"}: {why.data.reason}.
        </p>
      )}
      {why.error && <p className="mt-2 text-sm text-madder">{why.error.message}</p>}
    </div>
  );
}
