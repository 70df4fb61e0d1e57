import { Button } from "../../ui/Button";
import type { Post, State } from "./autosave";

type Props = { state: State; theirs: Post; onChoose: (choice: "mine" | "theirs") => void };

/** Two versions of one post: both are shown, and nothing is overwritten until one is chosen. */
export function Conflict({ state, theirs, onChoose }: Props) {
  return (
    <section role="alert" className="my-2 rounded-md border border-madder bg-sheet p-3">
      <h2 className="text-base font-semibold text-madder">Somebody else saved this post while you wrote.</h2>
      <p className="mt-1 text-sm text-soft">
        Both versions are kept until you choose. Yours is on the screen below; theirs is here.
      </p>
      <div className="my-2 max-h-48 overflow-y-auto rounded-md bg-sunk px-3 py-2 text-sm">
        <p className="font-semibold">{theirs.title || "Untitled"}</p>
        <p className="mt-1 whitespace-pre-wrap">{theirs.body || "No text."}</p>
      </div>
      <div className="flex gap-2">
        <Button onClick={() => onChoose("mine")}>
          Keep mine{state.fields.title ? `: “${state.fields.title.slice(0, 30)}”` : ""}
        </Button>
        <Button onClick={() => onChoose("theirs")}>Take theirs</Button>
      </div>
    </section>
  );
}
