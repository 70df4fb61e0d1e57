import { Textarea } from "@headlessui/react";
import type { ComponentProps } from "react";
import { Field, inputLook } from "./Field";

type Props = Omit<ComponentProps<"textarea">, "className"> & {
  label: string;
  hint?: string;
  error?: string | undefined;
  hideLabel?: boolean;
};

/** A labelled text of several lines. */
export function TextArea({ label, hint, error, hideLabel, ...rest }: Props) {
  return (
    <Field label={label} hint={hint} error={error} hideLabel={hideLabel ?? false}>
      <Textarea {...rest} invalid={Boolean(error)} className={`${inputLook} h-auto! resize-y py-1`} />
    </Field>
  );
}
