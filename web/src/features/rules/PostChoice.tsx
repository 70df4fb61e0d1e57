import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Field, inputLook } from "../../ui/Field";
import { useSettled } from "../../ui/useSettled";

type Chosen = { id: number; title: string };

type Props = {
  site: string;
  label?: string;
  hideLabel?: boolean;
  value?: Chosen | undefined;
  onChange: (post: Chosen) => void;
};

/** A post, found by its title. */
export function PostChoice({ site, label = "Post", hideLabel = false, value, onChange }: Props) {
  const [typed, setTyped] = useState<string>();
  const wanted = useSettled((typed ?? "").trim(), 200);
  const found = useQuery({
    queryKey: ["plan", site, "find", wanted],
    queryFn: () =>
      answer(
        api.GET("/api/v1/sites/{site}/titles", { params: { path: { site }, query: { title: wanted } } }),
      ),
    enabled: wanted.length > 1,
    placeholderData: keepPreviousData,
  });
  return (
    <Field label={label} hideLabel={hideLabel}>
      <Combobox<number | null>
        value={value?.id ?? null}
        onChange={(id) => {
          const post = found.data?.posts.find((p) => p.id === id);
          if (!post) return;
          onChange({ id: post.id, title: post.title });
          setTyped(undefined);
        }}
        onClose={() => setTyped(undefined)}
      >
        <ComboboxInput
          aria-label={label}
          placeholder="a post’s title"
          className={inputLook}
          displayValue={() => typed ?? value?.title ?? ""}
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
    </Field>
  );
}
