import { EditorSelection, type ChangeSpec, type EditorState, type TransactionSpec } from "@codemirror/state";

// What the toolbar and the keys do to a text in Markdown (CommonMark, and tables, strike-through and footnotes as
// GitHub has them). Each takes a state and answers with the change to make.

export type Change = (state: EditorState) => TransactionSpec;

/**
 * Puts a mark round the selection, or the word at the cursor; takes it off where it is there already. A cursor stays a
 * cursor at its place: the next letter goes on where one was.
 */
export function around(mark: string): Change {
  return (state) =>
    state.changeByRange((range) => {
      const n = mark.length;
      const word = range.empty ? state.wordAt(range.head) : undefined;
      let { from, to } = word ?? range;
      // Spaces at the ends would keep Markdown from seeing the mark.
      while (from < to && /\s/.test(state.sliceDoc(from, from + 1))) from++;
      while (from < to && /\s/.test(state.sliceDoc(to - 1, to))) to--;
      const inner = state.sliceDoc(from, to);
      const moved = (by: number, end = by) =>
        range.empty ? EditorSelection.cursor(range.head + by) : EditorSelection.range(from + by, to + end);
      if (isMarked(state, from, to, mark))
        return {
          changes: [
            { from: from - n, to: from },
            { from: to, to: to + n },
          ],
          range: moved(-n),
        };
      if (inner.length > 2 * n && inner.startsWith(mark) && inner.endsWith(mark) && only(inner, mark))
        return { changes: { from, to, insert: inner.slice(n, -n) }, range: moved(0, -2 * n) };
      return {
        changes: [
          { from, insert: mark },
          { from: to, insert: mark },
        ],
        range: moved(n),
      };
    });
}

/** Whether the mark stands right before and after, and is not a part of a longer one: * within **. */
function isMarked(state: EditorState, from: number, to: number, mark: string): boolean {
  const n = mark.length;
  if (state.sliceDoc(from - n, from) !== mark || state.sliceDoc(to, to + n) !== mark) return false;
  const run = (text: string) => /\**$/.exec(text)![0].length;
  const stars = Math.min(
    run(state.sliceDoc(Math.max(from - 4, 0), from)),
    run([...state.sliceDoc(to, to + 4)].reverse().join("")),
  );
  return !mark.startsWith("*") || stars === n || stars === 3;
}

const only = (inner: string, mark: string) =>
  mark !== "*" || !inner.startsWith("**") || inner.startsWith("***");

/** Puts a mark before each line of the selection, or takes it off where all of them have it. */
export function before(mark: (i: number) => string, has: RegExp, instead: RegExp = has): Change {
  return (state) => {
    const lines = selectedLines(state);
    const all = lines.every((l) => has.test(l.text) || (l.text.trim() === "" && lines.length > 1));
    let n = 0;
    const changes: ChangeSpec[] = lines.flatMap((l) => {
      if (l.text.trim() === "" && lines.length > 1) return [];
      const old = (all ? has : instead).exec(l.text)?.[0] ?? "";
      return [{ from: l.from, to: l.from + old.length, insert: all ? "" : mark(n++) }];
    });
    return { changes };
  };
}

const listed = /^(?:[-*+] |\d+[.)] )/;

export const bulletList = before(() => "- ", /^[-*+] /, listed);
export const numberedList = before((i) => `${i + 1}. `, /^\d+[.)] /, listed);
export const quote = before(() => "> ", /^> ?/);

/** A heading of a level; a heading of that level already becomes a plain line again. */
export const heading = (level: number) =>
  before(() => `${"#".repeat(level)} `, new RegExp(`^#{${level}} `), /^#{1,6} /);

function selectedLines(state: EditorState) {
  const { from, to } = state.selection.main;
  const last = state.doc.lineAt(to);
  const lines = [];
  for (let line = state.doc.lineAt(from); ; line = state.doc.line(line.number + 1)) {
    lines.push(line);
    if (line.number === last.number) return lines;
  }
}

/** Code: within a line by backticks, several lines by a fence. */
export const code: Change = (state) => {
  const { from, to } = state.selection.main;
  const text = state.sliceDoc(from, to);
  if (!text.includes("\n")) return around("`")(state);
  const fence = "`".repeat(Math.max(3, longestRun(text) + 1));
  return block(state, `${fence}\n${text}\n${fence}`);
};

function longestRun(text: string): number {
  return Math.max(0, ...[...text.matchAll(/`+/g)].map((m) => m[0].length));
}

/** A link round the selection, or with the words given where nothing is selected. */
export function link(address: string, words: string): Change {
  return (state) => {
    const { from, to } = state.selection.main;
    const said = state.sliceDoc(from, to) || words;
    const insert = `[${said.replaceAll(/[[\]]/g, "\\$&")}](${destination(address)})`;
    return { changes: { from, to, insert }, selection: { anchor: from + insert.length } };
  };
}

/** An address as a link's destination; in angle brackets where it holds what would end it (CommonMark 6.3). */
export function destination(address: string): string {
  const plain = address.trim().replaceAll(/[\r\n]/g, "");
  return /[\s()<>]/.test(plain) ? `<${plain.replaceAll(/[<>]/g, encodeURIComponent)}>` : plain;
}

const tableText = "| Column | Column |\n| --- | --- |\n|  |  |\n|  |  |";

/** A table of two columns to begin with. */
export const table: Change = (state) => block(state, tableText, "| ".length, "Column".length);

/** A footnote at the cursor, with its text at the end of the document, where the cursor goes on. */
export const footnote: Change = (state) => {
  const doc = state.doc.toString();
  let n = 1;
  while (doc.includes(`[^${n}]`)) n++;
  const at = state.selection.main.to;
  const mark = `[^${n}]`;
  const apart = doc === "" || doc.endsWith("\n\n") ? "" : doc.endsWith("\n") ? "\n" : "\n\n";
  // Notes stand one under the other.
  const note = `${/\[\^[^\]]+\]:[^\n]*\n*$/.test(doc) ? (doc.endsWith("\n") ? "" : "\n") : apart}${mark}: `;
  return {
    changes: [
      { from: at, insert: mark },
      { from: doc.length, insert: note },
    ],
    selection: { anchor: doc.length + mark.length + note.length },
  };
};

/** A block of its own, apart from what is before and after it. */
function block(state: EditorState, text: string, select = text.length, length = 0): TransactionSpec {
  const { from, to } = state.selection.main;
  const head = state.sliceDoc(Math.max(from - 2, 0), from);
  const tail = state.sliceDoc(to, to + 2);
  const above = from === 0 || head === "\n\n" ? "" : head.endsWith("\n") ? "\n" : "\n\n";
  const below = to === state.doc.length || tail === "\n\n" ? "" : tail.startsWith("\n") ? "\n" : "\n\n";
  const start = from + above.length + select;
  return {
    changes: { from, to, insert: above + text + below },
    selection: { anchor: start, head: start + length },
  };
}
