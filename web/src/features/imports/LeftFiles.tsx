import type { Schemas } from "../../api/client";

/** Files that can't be used, and why. */
export function LeftFiles({ left }: { left: Schemas["LeftFile"][] }) {
  if (left.length === 0) return null;
  return (
    <details className="mb-3 text-sm">
      <summary className="text-soft">
        {left.length === 1 ? "1 file is left out" : `${left.length} files are left out`}
      </summary>
      <ul className="mt-1 space-y-0.5">
        {left.map((l) => (
          <li key={l.path} className="wrap-anywhere">
            {l.path} <span className="text-soft">{l.why}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
