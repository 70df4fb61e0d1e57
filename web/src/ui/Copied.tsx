import { Copy } from "lucide-react";
import { Button } from "./Button";
import { useSay } from "./toast";

/** A text that is shown once, to be copied. */
export function Copied({ label, text }: { label: string; text: string }) {
  const say = useSay();
  return (
    <div className="flex items-center gap-2">
      <input
        readOnly
        aria-label={label}
        value={text}
        onFocus={(e) => e.target.select()}
        className="h-8 min-w-0 flex-1 rounded-md border border-strong bg-sunk px-2 font-mono text-sm"
      />
      <Button
        icon={<Copy size={14} />}
        onClick={() =>
          void navigator.clipboard.writeText(text).then(
            () => say.done("Copied."),
            () => say.trouble("The browser did not let it be copied. Select the text and copy it by hand."),
          )
        }
      >
        Copy
      </Button>
    </div>
  );
}
