/** Reads ids as an address keeps them, such as "3,17"; what is none is left out. */
export function readIds(text: string | null): number[] {
  const ids = (text ?? "").split(",").map(Number);
  return [...new Set(ids.filter((id) => Number.isSafeInteger(id) && id !== 0))].slice(0, 100);
}

/** Writes ids as an address keeps them. */
export const writeIds = (ids: number[]) => ids.join(",");
