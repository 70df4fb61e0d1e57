import { useCallback, useEffect, useRef } from "react";

/** A function that stays the same and does what the latest one does: for what is drawn anew only when it must be. */
export function useSteady<A extends unknown[]>(latest: (...args: A) => void): (...args: A) => void {
  const ref = useRef(latest);
  useEffect(() => {
    ref.current = latest;
  });
  return useCallback((...args: A) => ref.current(...args), []);
}
