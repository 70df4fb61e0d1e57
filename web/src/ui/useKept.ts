import { useEffect, useState } from "react";
import type { FieldValues } from "react-hook-form";
import type { ZodType } from "zod";
import { useFormOf, type Problem } from "./useFormOf";
import { useSteady } from "./useSteady";

/**
 * A form over what the server keeps with a version. What somebody else saves meanwhile is shown at once where nothing is
 * written here; else it stays away from it, and `movedOn` says so, until it is taken or saving is refused. What is
 * written while a save is on its way stays, to be saved.
 */
export function useKept<T extends FieldValues & { version?: number | undefined }>(
  schema: ZodType<T, T>,
  saved: T,
) {
  const form = useFormOf(schema, saved);
  const { changed } = form;
  const [version, setVersion] = useState(saved.version ?? 0);
  const [saving, setSaving] = useState(false);
  const newer = (saved.version ?? 0) > version;
  function take(kept: T, sent?: T) {
    setVersion(kept.version ?? 0);
    form.take(kept, sent);
  }
  const follow = useSteady(() => take(saved));
  const follows = newer && !changed && !saving;
  useEffect(() => {
    if (follows) follow();
  }, [follows, follow]);
  return {
    ...form,
    take,
    movedOn: newer && changed && !saving,
    /** Saves what passes the schema; what it comes to be is then what is kept. Its promise may fail. */
    save(keep: (values: T) => Promise<T>, also?: Problem[]) {
      const sent = form.now();
      form.submit((passed) => {
        setSaving(true);
        keep(passed)
          .then(
            (kept) => take(kept, sent),
            () => undefined, // who saves tells
          )
          .finally(() => setSaving(false));
      }, also);
    },
  };
}
