import { useCallback, useEffect, useRef } from "react";

/** Tells whether the component is still there, for what is told of only later. */
export function useStill(): () => boolean {
  const there = useRef(false);
  useEffect(() => {
    there.current = true;
    return () => {
      there.current = false;
    };
  }, []);
  return useCallback(() => there.current, []);
}
