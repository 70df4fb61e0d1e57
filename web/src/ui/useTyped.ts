import { useState, type KeyboardEvent } from "react";

type Kind<T> = {
  /** What was typed as a value; undefined where it cannot be read. */
  read: (text: string) => T | undefined;
  /** A value as the field shows it. */
  show: (value: T) => string;
  /** What is handed on in place of a value while the text cannot be read: the form is then not valid. */
  unreadable: (text: string) => T;
};

/**
 * The text of a field that holds a value of some kind. The text stays as it is typed until the field is left, and
 * follows the value where that is changed elsewhere. Whether it is wrong is said once the field has been left.
 */
export function useTyped<T>(value: T, onChange: (value: T) => void, { read, show, unreadable }: Kind<T>) {
  const [state, setState] = useState({ text: show(value), sent: value, left: true });
  if (!Object.is(state.sent, value)) setState({ text: show(value), sent: value, left: true });
  const { text, left } = state;
  const known = read(text);
  return {
    text,
    /** What is wrong: that it cannot be read, or what else the form says; nothing while it is being typed. */
    wrong: (unread: string, other: string | undefined) =>
      known !== undefined ? other : left ? unread : undefined,
    type(next: string) {
      const sent = read(next) ?? unreadable(next);
      // What was already marked stays marked until it can be read.
      setState({ text: next, sent, left: left && known === undefined });
      if (!Object.is(sent, value)) onChange(sent);
    },
    leave,
    /** Enter may send the form: what is wrong is said then, too. */
    key(event: KeyboardEvent) {
      if (event.key === "Enter") leave();
    },
  };

  function leave() {
    setState({ ...state, text: known === undefined ? text : show(known), left: true });
  }
}
