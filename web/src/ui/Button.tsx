import type { ComponentProps, MouseEvent, ReactNode } from "react";

const looks = {
  /** The one main action of a screen. */
  main: "bg-tape text-tape-ink font-semibold hover:brightness-95",
  plain: "border border-strong bg-sheet text-ink hover:border-ink",
  quiet: "text-soft hover:bg-sunk hover:text-ink",
  trouble: "border border-madder bg-sheet text-madder hover:bg-madder-wash",
};

type Props = Omit<ComponentProps<"button">, "className"> & {
  look?: keyof typeof looks;
  icon?: ReactNode;
  className?: string;
};

export function Button({ look = "plain", icon, className = "", children, ...rest }: Props) {
  return (
    <button
      type="button"
      {...able(rest)}
      className={`inline-flex h-8 items-center justify-center gap-1.5 rounded-md px-3 text-sm whitespace-nowrap aria-disabled:opacity-45 ${looks[look]} ${className}`}
    >
      {icon}
      {children}
    </button>
  );
}

/**
 * A button that can do nothing just now says so, and keeps the focus: it would be lost if the button were taken out
 * of the order of keys while what it began is under way.
 */
function able<P extends Pick<ComponentProps<"button">, "disabled" | "onClick">>({
  disabled,
  onClick,
  ...rest
}: P) {
  return {
    ...rest,
    "aria-disabled": disabled || undefined,
    onClick: disabled ? (event: MouseEvent<HTMLButtonElement>) => event.preventDefault() : onClick,
  };
}

/** A button that is only an icon; label says what it does. */
export function IconButton({ label, children, ...rest }: Omit<Props, "icon" | "look"> & { label: string }) {
  return (
    <button
      type="button"
      {...able(rest)}
      title={label}
      aria-label={label}
      className={`inline-flex size-7 items-center justify-center rounded-md text-soft aria-disabled:opacity-35 hover:bg-sunk hover:text-ink ${rest.className ?? ""}`}
    >
      {children}
    </button>
  );
}
