import { EditorState, type TransactionSpec } from "@codemirror/state";
import { describe, expect, it } from "vitest";
import {
  around,
  bulletList,
  code,
  destination,
  footnote,
  heading,
  link,
  numberedList,
  quote,
  table,
} from "./markup";

/** A text whose selection stands between « and »; a lone ‸ is the cursor. */
function state(text: string): EditorState {
  const cursor = text.indexOf("‸");
  if (cursor >= 0) return EditorState.create({ doc: text.replace("‸", ""), selection: { anchor: cursor } });
  const from = text.indexOf("«");
  const to = text.indexOf("»") - 1;
  return EditorState.create({ doc: text.replace(/[«»]/g, ""), selection: { anchor: from, head: to } });
}

function after(text: string, change: (s: EditorState) => TransactionSpec): string {
  const next = state(text).update(change(state(text))).state;
  const { from, to } = next.selection.main;
  const doc = next.doc.toString();
  return from === to
    ? `${doc.slice(0, from)}‸${doc.slice(from)}`
    : `${doc.slice(0, from)}«${doc.slice(from, to)}»${doc.slice(to)}`;
}

describe("bold and italics", () => {
  it.each([
    ["a «clear» night", "**", "a **«clear»** night"],
    ["a **«clear»** night", "**", "a «clear» night"],
    ["a «**clear**» night", "**", "a «clear» night"],
    ["a cl‸ear night", "*", "a *cl‸ear* night"],
    ["a clear‸", "*", "a *clear‸*"],
    ["a *clear‸*", "*", "a clear‸"],
    ["a «clear »night", "*", "a *«clear»* night"],
    ["a **«clear»** night", "*", "a ***«clear»*** night"],
    ["a ***«clear»*** night", "*", "a **«clear»** night"],
    ["a ***«clear»*** night", "**", "a *«clear»* night"],
    ["‸", "**", "**‸**"],
  ])("%s with %s", (text, mark, want) => expect(after(text, around(mark))).toBe(want));
});

describe("lines", () => {
  it.each([
    ["o‸ne", heading(2), "## o‸ne"],
    ["## o‸ne", heading(2), "o‸ne"],
    ["### o‸ne", heading(2), "## o‸ne"],
    ["«one\ntwo»", bulletList, "- «one\n- two»"],
    ["«- one\n- two»", bulletList, "«one\ntwo»"],
    ["«- one\n\n- two»", numberedList, "1. «one\n\n2. two»"],
    ["‸", quote, "> ‸"],
  ])("%s", (text, change, want) => {
    // Where the selection ends up at a line's start is the editor's own business.
    const plain = (s: string) => s.replace(/[«»‸]/g, "");
    expect(plain(after(text, change))).toBe(plain(want));
  });
});

describe("code", () => {
  it("stands within a line, or in a fence of its own", () => {
    expect(after("press «make» now", code)).toBe("press `«make»` now");
    expect(after("before\n«a\nb»\nafter", code)).toBe("before\n\n```\na\nb\n```‸\n\nafter");
    expect(after("«a ```` b\nc»", code)).toContain("`````\na ```` b");
  });
});

describe("a link", () => {
  it("takes the selected words, or those that come with it", () => {
    expect(after("see «the list»", link("/blog/dome/list", "List"))).toBe("see [the list](/blog/dome/list)‸");
    expect(after("see ‸", link("https://example.org/", "Example"))).toBe(
      "see [Example](https://example.org/)‸",
    );
    expect(after("«a [b]»", link("https://example.org/", ""))).toBe("[a \\[b\\]](https://example.org/)‸");
  });
  it("is not broken by its address", () => {
    expect(destination("https://example.org/a(b)")).toBe("<https://example.org/a(b)>");
    expect(destination("https://example.org/a b<c>")).toBe("<https://example.org/a b%3Cc%3E>");
    expect(destination(" https://example.org/\n")).toBe("https://example.org/");
  });
});

describe("a table", () => {
  it("stands apart, with its first heading selected", () => {
    expect(after("one‸", table)).toMatch(/^one\n\n\| «Column» \| Column \|\n\| --- \| --- \|/);
    expect(after("one\n‸\ntwo", table)).toMatch(/\|\n\ntwo$/);
  });
});

describe("a footnote", () => {
  it("is numbered, and its text is written at the end", () => {
    expect(after("A claim‸ and more.", footnote)).toBe("A claim[^1] and more.\n\n[^1]: ‸");
    expect(after("One[^1] two‸.\n\n[^1]: First.", footnote)).toBe(
      "One[^1] two[^2].\n\n[^1]: First.\n[^2]: ‸",
    );
  });
});
