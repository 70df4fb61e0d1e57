import { Trash2 } from "lucide-react";
import { AddButton } from "../../ui/AddButton";
import { IconButton } from "../../ui/Button";
import { inputLook } from "../../ui/Field";

type Props = {
  /** What they are called: "Wording", or "Wording for Hearth". */
  name: string;
  texts: string[];
  problem: (i: number) => string | undefined;
  onChange: (texts: string[]) => void;
  onLook: (text: string) => void;
};

/** The name within a sentence: only its first letter is small. */
const lower = (name: string) => name.charAt(0).toLowerCase() + name.slice(1);

/** Wordings that take turns, each a text that can be changed and removed. */
export function Wordings({ name, texts, problem, onChange, onLook }: Props) {
  return (
    <>
      <ol className="w-full space-y-1.5">
        {texts.map((text, i) => (
          // Wordings take turns by their place; they have no other name.
          <li key={i}>
            <div className="flex items-start gap-1">
              <textarea
                aria-label={`${name} ${i + 1}`}
                aria-invalid={Boolean(problem(i))}
                rows={2}
                value={text}
                onFocus={() => onLook(text)}
                onChange={(e) => {
                  onChange(texts.map((w, j) => (j === i ? e.target.value : w)));
                  onLook(e.target.value);
                }}
                className={`${inputLook} h-auto! resize-y py-1`}
              />
              <IconButton
                label={`Remove ${lower(name)} ${i + 1}`}
                onClick={() => onChange(texts.filter((_, j) => j !== i))}
              >
                <Trash2 size={15} />
              </IconButton>
            </div>
            {problem(i) && (
              <p role="alert" className="mt-0.5 text-xs text-madder">
                {problem(i)}
              </p>
            )}
          </li>
        ))}
      </ol>
      <AddButton onAdd={() => onChange([...texts, "{title} {link}"])}>Add a {lower(name)}</AddButton>
    </>
  );
}
