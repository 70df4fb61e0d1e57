import { Button } from "./Button";
import { useCommands } from "./commands";

type Props = { name: string; disabled: boolean; quiet?: boolean; onSave: () => void };

/** Saves the form of a screen; Ctrl S does so from any of its fields. */
export function SaveButton({ name, disabled, quiet = false, onSave }: Props) {
  useCommands(disabled ? [] : [{ name, group: "Do", keys: "Ctrl S", run: onSave }]);
  return (
    <Button
      look={quiet ? "plain" : "main"}
      disabled={disabled}
      aria-keyshortcuts="Control+S"
      title="Ctrl S"
      onClick={onSave}
    >
      {name}
    </Button>
  );
}
