import { describe, expect, it } from "vitest";
import { asMarkdown } from "./pasted";

describe("pasted HTML", () => {
  it.each([
    ["<h2>Frost</h2><p>A <b>hard</b> and <i>long</i> one.</p>", "## Frost\n\nA **hard** and *long* one."],
    ["<ul><li>one</li><li>two</li></ul>", "- one\n- two"],
    ["<ol><li>one</li><li>two<ul><li>deep</li></ul></li></ol>", "1. one\n2. two\n   - deep"],
    ['<p>See <a href="https://example.org/a">this</a>.</p>', "See [this](https://example.org/a)."],
    ["<blockquote><p>Said.</p></blockquote>", "> Said."],
    ["<pre><code>a\nb</code></pre>", "```\na\nb\n```"],
    [
      "<table><thead><tr><th>A</th><th>B</th></tr></thead><tbody><tr><td>1</td><td>2</td></tr></tbody></table>",
      "| A   | B   |\n| --- | --- |\n| 1   | 2   |",
    ],
    // As word processors have it.
    [
      '<meta charset="utf-8"><b style="font-weight:normal"><p><span style="font-weight:700">Bold</span> and <span style="font-style:italic">slanted</span>.</p></b>',
      "**Bold** and *slanted*.",
    ],
    // Nothing that would do harm, nor pictures within the text.
    ['<p><b>x</b><a href="javascript:alert(1)">click</a></p>', "**x**click"],
    ['<p><b>x</b> <img src="data:image/png;base64,AAAA" alt="a dome"></p>', "**x** a dome"],
    ["<style>p{}</style><script>alert(1)</script><p><b>x</b></p>", "**x**"],
  ])("%s", async (html, want) => expect(await asMarkdown(html)).toBe(want));

  it("is taken as plain text where it has no structure", async () => {
    expect(await asMarkdown("<p>Only words.</p><p>And more.</p>")).toBeUndefined();
  });

  it("is taken as plain text where it has too much", async () => {
    expect(await asMarkdown(`<b>x</b>${"y".repeat(1_000_001)}`)).toBeUndefined();
    expect(await asMarkdown("<div>".repeat(300) + "<b>x</b>")).toBeUndefined();
  });
});
