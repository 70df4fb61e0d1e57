import { zodResolver } from "@hookform/resolvers/zod";
import { useState } from "react";
import {
  useForm,
  useWatch,
  type DefaultValues,
  type FieldValues,
  type Path,
  type PathValue,
} from "react-hook-form";
import type { ZodType } from "zod";
import { same } from "./same";

export type Problem = { path: string; message: string };

/**
 * A form over a whole value: what was saved, what it is now, and what is wrong with it by its schema. Values that a
 * field could not read do not pass the schema, so they are never saved and never asked about.
 */
export function useFormOf<T extends FieldValues>(schema: ZodType<T, T>, saved: T) {
  const form = useForm<T>({ defaultValues: saved as DefaultValues<T>, resolver: zodResolver(schema) });
  const values = useWatch({ control: form.control }) as T;
  const { isDirty, isSubmitted, dirtyFields } = form.formState;
  const { valid, problems } = useValid(schema, values);

  return {
    values,
    /** The values when they last passed the schema. */
    valid,
    changed: isDirty,
    problems,
    set(change: Partial<T>) {
      for (const [name, value] of Object.entries(change))
        form.setValue(name as Path<T>, value as PathValue<T, Path<T>>, { shouldDirty: true });
    },
    /** What is in the fields at this moment. */
    now: () => structuredClone(form.getValues()),
    /** Begins anew from what is kept now. What was changed after something was sent to be kept stays. */
    take(kept: T, sent?: T) {
      const later = sent ? changedSince(form.getValues(), sent) : {};
      form.reset(kept);
      for (const [name, value] of Object.entries(later))
        form.setValue(name as Path<T>, value as PathValue<T, Path<T>>, { shouldDirty: true });
    },
    /**
     * What is wrong at a path, where it is time to say so: it was tried to be saved, or something wrong was put
     * there. What was never touched, or is still empty, is only unfinished.
     */
    problem(path: string, also: Problem[] = []): string | undefined {
      const found = problems.find((p) => p.path === path) ?? also.find((p) => p.path === path);
      return found && (isSubmitted || (touched(path) && !empty(valueAt(values, path))))
        ? found.message
        : undefined;
    },
    /** Saves what passes the schema, and otherwise shows what does not. */
    submit: (save: (values: T) => void, also: Problem[] = []) =>
      void form.handleSubmit(
        (passed) => (also.length === 0 ? save(passed) : showWrong()),
        () => showWrong(),
      )(),
  };

  function touched(path: string): boolean {
    const [top = ""] = path.split(/[.[]/);
    return top in dirtyFields;
  }
}

/** What was changed of a value after it was sent to be kept. */
export const changedSince = <T extends object>(now: T, sent: T): Partial<T> =>
  Object.fromEntries(
    Object.entries(now).filter(([name, value]) => !same(value, sent[name as keyof T])),
  ) as Partial<T>;

/** The value when it last passed a schema, and what is wrong with it now. */
export function useValid<T>(schema: ZodType, value: T) {
  const parsed = schema.safeParse(value);
  const [valid, setValid] = useState(value);
  if (parsed.success && valid !== value) setValid(value);
  const problems: Problem[] = parsed.success
    ? []
    : parsed.error.issues.map((i) => ({ path: written(i.path), message: i.message }));
  // Previews go on showing what was valid while something is being typed.
  return { valid: parsed.success ? value : valid, invalid: !parsed.success, problems };
}

function valueAt(values: unknown, path: string): unknown {
  const parts = path.split(/[.[\]]+/).filter(Boolean);
  return parts.reduce<unknown>((v, part) => (v as Record<string, unknown> | undefined)?.[part], values);
}

/** Whether there is nothing yet: an empty text or list, or a group without parts. */
function empty(value: unknown): boolean {
  if (value === undefined || value === null || value === "") return true;
  if (Array.isArray(value)) return value.every(empty);
  return typeof value === "object" && "parts" in value && empty(value.parts);
}

/** A path as the server writes it: openings[2].to */
function written(path: PropertyKey[]): string {
  return path.reduce<string>(
    (all, part) =>
      typeof part === "number" ? `${all}[${part}]` : all === "" ? String(part) : `${all}.${String(part)}`,
    "",
  );
}

/** Puts the cursor into the first field that is wrong, once it is marked: the form is drawn anew first. */
export function showWrong(tries = 20) {
  setTimeout(() => {
    const within = document.querySelector('[role="dialog"]') ?? document;
    const wrong = within.querySelector<HTMLElement>('[aria-invalid="true"]');
    if (wrong) wrong.focus();
    else if (tries > 1) showWrong(tries - 1);
  }, 20);
}
