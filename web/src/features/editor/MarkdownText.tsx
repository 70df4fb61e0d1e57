import { defaultKeymap, history, historyKeymap, indentWithTab } from "@codemirror/commands";
import { markdown, markdownLanguage, pasteURLAsLink } from "@codemirror/lang-markdown";
import { HighlightStyle, syntaxHighlighting } from "@codemirror/language";
import { highlightSelectionMatches, search, searchKeymap } from "@codemirror/search";
import { EditorState, Prec } from "@codemirror/state";
import { drawSelection, EditorView, keymap, placeholder } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { useEffect, useRef, type RefObject } from "react";
import { around, type Change } from "./markup";
import { asMarkdown } from "./pasted";

const ink = HighlightStyle.define([
  { tag: tags.heading1, fontFamily: "var(--font-title)", fontSize: "1.4em" },
  { tag: tags.heading2, fontFamily: "var(--font-title)", fontSize: "1.2em" },
  { tag: tags.heading, fontWeight: "600" },
  { tag: tags.strong, fontWeight: "700" },
  { tag: tags.emphasis, fontStyle: "italic" },
  { tag: tags.strikethrough, textDecoration: "line-through" },
  { tag: [tags.link, tags.url], color: "var(--chalk)" },
  { tag: [tags.monospace, tags.quote], color: "var(--ink-soft)" },
  { tag: tags.processingInstruction, color: "var(--ink-faint)" },
]);

const look = EditorView.theme({
  "&": { height: "100%", fontSize: "1rem", color: "var(--ink)", backgroundColor: "var(--sheet)" },
  "&.cm-focused": { outline: "2px solid var(--ink)", outlineOffset: "-1px" },
  ".cm-scroller": { fontFamily: "inherit", lineHeight: "1.6", overflow: "auto" },
  ".cm-content": { padding: "12px 0", caretColor: "var(--ink)" },
  ".cm-line": { padding: "0 16px" },
  ".cm-placeholder": { color: "var(--ink-faint)" },
  ".cm-cursor": { borderLeftColor: "var(--ink)" },
  "&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground": {
    background: "var(--chalk-wash)",
  },
  ".cm-panels": { backgroundColor: "var(--sunk)", color: "var(--ink)", borderColor: "var(--line)" },
  ".cm-textfield, .cm-button": {
    backgroundColor: "var(--sheet)",
    backgroundImage: "none",
    color: "var(--ink)",
    border: "1px solid var(--line-strong)",
    borderRadius: "4px",
  },
  ".cm-searchMatch": { backgroundColor: "var(--open)" },
});

/** What others may do with the text, beside writing in it. */
export type TextHandle = {
  /** Puts a text where the cursor is, or in place of what is selected. */
  insert: (text: string) => void;
  /** Puts a text in place of another, wherever that is now; tells whether it was found. */
  replace: (old: string, text: string) => boolean;
  /** Does something to what is selected, and goes on there. */
  change: (change: Change) => void;
  focus: () => void;
};

type Props = {
  value: string;
  invalid: boolean;
  onChange: (value: string) => void;
  onFiles: (files: File[]) => void;
  onLink: () => void;
  handleRef: RefObject<TextHandle | null>;
};

/** The text in Markdown. */
export function MarkdownText({ value, invalid, onChange, onFiles, onLink, handleRef }: Props) {
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const told = useRef({ onChange, onFiles, onLink });
  useEffect(() => {
    told.current = { onChange, onFiles, onLink };
  });

  useEffect(() => {
    const editor = new EditorView({
      parent: place.current!,
      state: EditorState.create({
        doc: value,
        extensions: [
          history(),
          drawSelection(),
          search({ top: true }),
          highlightSelectionMatches(),
          // Before the editor's own: its Ctrl I would select all, and the next letter replace it.
          Prec.highest(
            keymap.of([
              { key: "Mod-b", run: doing(around("**")) },
              { key: "Mod-i", run: doing(around("*")) },
              {
                key: "Mod-k",
                run: () => {
                  told.current.onLink();
                  return true;
                },
              },
            ]),
          ),
          pasteURLAsLink,
          // Tab moves on, as everywhere; it indents only within the list keys of Markdown.
          keymap.of([
            ...searchKeymap,
            ...historyKeymap,
            ...defaultKeymap,
            { ...indentWithTab, key: "Mod-]" },
          ]),
          markdown({ base: markdownLanguage }),
          syntaxHighlighting(ink),
          look,
          EditorView.lineWrapping,
          placeholder("Write in Markdown. Pictures can be pasted or dropped here."),
          EditorView.contentAttributes.of({ "aria-label": "Text, in Markdown", spellcheck: "true" }),
          EditorView.updateListener.of((u) => {
            if (u.docChanged) told.current.onChange(u.state.doc.toString());
          }),
          EditorView.domEventHandlers({
            paste: (event, v) =>
              takeFiles(event, event.clipboardData, told.current.onFiles) || takeHTML(event, v),
            drop: (event, v) => {
              const at = v.posAtCoords({ x: event.clientX, y: event.clientY });
              if (at !== null && event.dataTransfer?.files.length) v.dispatch({ selection: { anchor: at } });
              return takeFiles(event, event.dataTransfer, told.current.onFiles);
            },
          }),
        ],
      }),
    });
    view.current = editor;
    handleRef.current = handleOf(editor);
    return () => {
      handleRef.current = null;
      view.current = null;
      editor.destroy();
    };
    // The editor is made once; what is written outside it comes in below.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  useEffect(() => {
    const editor = view.current;
    const now = editor?.state.doc.toString();
    if (editor && now !== undefined && now !== value) editor.dispatch({ changes: difference(now, value) });
  }, [value]);

  useEffect(() => {
    view.current?.contentDOM.setAttribute("aria-invalid", String(invalid));
  }, [invalid]);

  return (
    <div
      ref={place}
      className={`min-h-96 flex-1 overflow-hidden rounded-md border ${invalid ? "border-madder" : "border-strong"} [&>.cm-editor]:min-h-96`}
    />
  );
}

/** What turns one text into another, as one change of what lies between their common ends: the cursor stays. */
export function difference(before: string, after: string): { from: number; to: number; insert: string } {
  const least = Math.min(before.length, after.length);
  let start = 0;
  while (start < least && before[start] === after[start]) start++;
  let end = 0;
  while (end < least - start && before[before.length - 1 - end] === after[after.length - 1 - end]) end++;
  return { from: start, to: before.length - end, insert: after.slice(start, after.length - end) };
}

const doing = (change: Change) => (view: EditorView) => {
  view.dispatch(view.state.update(change(view.state), { scrollIntoView: true, userEvent: "input" }));
  return true;
};

/** Pasted HTML becomes Markdown. Without structure it is taken as the plain text that comes with it. */
function takeHTML(event: ClipboardEvent, view: EditorView): boolean {
  const html = event.clipboardData?.getData("text/html") ?? "";
  const plain = event.clipboardData?.getData("text/plain") ?? "";
  // An address copied from a browser comes as a link; on a selection it becomes that selection's link.
  if (html === "" || /^\S+$/.test(plain.trim())) return false;
  event.preventDefault();
  const put = (text: string) =>
    view.dispatch(view.state.replaceSelection(text), { userEvent: "input.paste" });
  asMarkdown(html).then(
    (markdown) => put(markdown ?? plain),
    () => put(plain),
  );
  return true;
}

function takeFiles(event: Event, from: DataTransfer | null, onFiles: (files: File[]) => void): boolean {
  const files = [...(from?.files ?? [])];
  if (files.length === 0) return false;
  event.preventDefault();
  onFiles(files);
  return true;
}

function handleOf(editor: EditorView): TextHandle {
  return {
    insert: (text) => {
      const { from, to } = editor.state.selection.main;
      editor.dispatch({
        changes: { from, to, insert: text },
        selection: { anchor: from + text.length },
      });
    },
    replace: (old, text) => {
      const at = editor.state.doc.toString().indexOf(old);
      if (at < 0) return false;
      editor.dispatch({ changes: { from: at, to: at + old.length, insert: text } });
      return true;
    },
    change: (change) => {
      doing(change)(editor);
      editor.focus();
    },
    focus: () => editor.focus(),
  };
}
