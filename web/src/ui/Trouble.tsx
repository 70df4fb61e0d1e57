import { TriangleAlert } from "lucide-react";
import { Button } from "./Button";

/** What happened, and what to do. */
export function Trouble({ error, retry }: { error: Error; retry?: () => void }) {
  return (
    <div role="alert" className="mx-auto mt-24 flex max-w-lg flex-col items-start gap-3 px-4">
      <TriangleAlert className="text-madder" aria-hidden />
      <p className="text-lg">{error.message}</p>
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
