import { TriangleAlert } from "lucide-react";
import { Button } from "./Button";

type Props = { error: Error; retry?: () => void };

/** In place of a screen: what happened, and what to do. */
export function Trouble(props: Props) {
  return (
    <main>
      <TroubleHere {...props} whole />
    </main>
  );
}

/** Trouble within a screen. */
export function TroubleHere({ error, retry, whole = false }: Props & { whole?: boolean }) {
  const Said = whole ? "h1" : "p";
  return (
    <div role="alert" className="mx-auto mt-24 flex max-w-lg flex-col items-start gap-3 px-4">
      <TriangleAlert className="text-madder" aria-hidden />
      <Said className="text-lg">{error.message}</Said>
      {retry && <Button onClick={retry}>Try again</Button>}
    </div>
  );
}

/** A sentence about trouble within a screen. */
export function Warning({ children }: { children: React.ReactNode }) {
  return (
    <p role="alert" className="flex gap-2 rounded-md bg-madder-wash px-3 py-2 text-sm text-madder">
      <TriangleAlert size={16} className="mt-px shrink-0" aria-hidden />
      <span>{children}</span>
    </p>
  );
}
