/** Said of a proposal for which not every way could be tried. */
export function Unproven() {
  return (
    <p className="mb-3 rounded-md bg-open px-3 py-2 text-sm">
      There may be a plan that meets more deadlines; there are too many to try them all. The deadlines met
      here are certain.
    </p>
  );
}
