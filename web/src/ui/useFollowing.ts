import { useState } from "react";

/**
 * The text of a field whose value may also be changed elsewhere: it follows such a change, and keeps what is being
 * typed otherwise.
 */
export function useFollowing(value: string): [string, (text: string) => void] {
  const [state, setState] = useState({ text: value, value });
  if (state.value !== value) {
    // Changed: by this field, which then reads the same, or elsewhere.
    setState({ text: value, value });
  }
  return [state.text, (text) => setState({ text, value: state.value })];
}
