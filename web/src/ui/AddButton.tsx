import { Plus } from "lucide-react";
import type { ComponentProps } from "react";
import { Button } from "./Button";

type Props = Omit<ComponentProps<typeof Button>, "icon" | "onClick"> & { onAdd: () => void };

const controls = "input, textarea, select, button, [contenteditable=true]";

/** Adds one more to what it stands by; the focus is then on the first control of what was added. */
export function AddButton({ onAdd, ...rest }: Props) {
  return (
    <Button
      {...rest}
      icon={<Plus size={14} />}
      onClick={({ currentTarget }) => {
        const around = currentTarget.closest("[role=group], section, fieldset, form") ?? document.body;
        const before = new Set(around.querySelectorAll(controls));
        onAdd();
        requestAnimationFrame(() =>
          [...around.querySelectorAll<HTMLElement>(controls)].find((c) => !before.has(c))?.focus(),
        );
      }}
    />
  );
}
