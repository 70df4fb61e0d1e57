import { Description, Field as Base, Input, Label } from "@headlessui/react";
import type { ComponentProps, ReactNode } from "react";

export const inputLook =
  "h-8 w-full rounded-md border border-strong bg-sheet px-2 text-base text-ink placeholder:text-faint data-invalid:border-madder aria-invalid:border-madder";

type FieldProps = {
  label: string;
  hint?: ReactNode;
  error?: string | undefined;
  hideLabel?: boolean;
  children: ReactNode;
};

/** A labelled control with a hint, and what is wrong with it. */
export function Field({ label, hint, error, hideLabel, children }: FieldProps) {
  return (
    <Base className="min-w-0">
      <Label className={hideLabel ? "sr-only" : "mb-1 block text-sm text-soft"}>{label}</Label>
      {children}
      {hint && !error && <Description className="mt-1 text-xs text-faint">{hint}</Description>}
      {error && (
        <Description role="alert" className="mt-1 text-xs text-madder">
          {error}
        </Description>
      )}
    </Base>
  );
}

/** Years have four digits: without it a date field takes six. */
const lastDate = "9999-12-31";

type TextProps = Omit<ComponentProps<"input">, "className"> &
  Omit<FieldProps, "children"> & { className?: string };

export function TextField({ label, hint, error, hideLabel, className = "", ...rest }: TextProps) {
  return (
    <Field label={label} hint={hint} error={error} hideLabel={hideLabel ?? false}>
      <Input
        max={rest.type === "date" ? lastDate : undefined}
        {...rest}
        invalid={Boolean(error)}
        className={`${inputLook} ${className}`}
      />
    </Field>
  );
}
