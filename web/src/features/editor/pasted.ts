import type TurndownService from "turndown";

/** More HTML than this is taken as plain text: it is no passage of an article any more. */
const most = 1_000_000; // characters

/** Deeper HTML is taken as plain text: it is made to be a nuisance. */
const deepest = 200;

const meaning =
  "a[href],b,strong,i,em,h1,h2,h3,h4,h5,h6,ul,ol,blockquote,pre,code,table,img,del,s,hr,[style*=bold],[style*=italic],[style*='font-weight']";

/**
 * Pasted HTML as Markdown; undefined where plain text is the better of the two: it has no structure, or too much of
 * it. Nothing in it is run or loaded: it is parsed into a document of its own.
 */
export async function asMarkdown(html: string): Promise<string | undefined> {
  if (html.length > most) return undefined;
  const body = new DOMParser().parseFromString(html, "text/html").body;
  if (depth(body) > deepest || !body.querySelector(meaning)) return undefined;
  const [{ default: Turndown }, { gfm }] = await Promise.all([
    import("turndown"),
    import("@joplin/turndown-plugin-gfm"),
  ]);
  const service = new Turndown({
    headingStyle: "atx",
    bulletListMarker: "-",
    codeBlockStyle: "fenced",
    emDelimiter: "*",
    hr: "---",
  });
  service.use(gfm);
  for (const [name, rule] of Object.entries(rules)) service.addRule(name, rule);
  service.remove(["style", "script", "title", "meta", "link" as keyof HTMLElementTagNameMap, "noscript"]);
  const text = service.turndown(body);
  return text.replaceAll(/\n{3,}/g, "\n\n").trim();
}

// Beside lists with one space after their mark: word processors say by styles what they mean.
const rules: Record<string, TurndownService.Rule> = {
  item: {
    filter: "li",
    replacement: (content, node) => {
      const list = node.parentNode as HTMLElement | null;
      const number =
        Number(list?.getAttribute("start") ?? 1) + [...(list?.children ?? [])].indexOf(node as Element);
      const mark = list?.nodeName === "OL" ? `${number}. ` : "- ";
      const text = content.trim().replaceAll("\n", `\n${" ".repeat(mark.length)}`);
      return `${mark}${text}${node.nextSibling ? "\n" : ""}`;
    },
  },
  plain: {
    filter: (node) => /^(B|STRONG)$/.test(node.nodeName) && weight(node) === "normal",
    replacement: (content) => content,
  },
  bold: {
    filter: (node) => node.nodeName === "SPAN" && weight(node) === "bold",
    replacement: (content) => wrapped(content, "**"),
  },
  italic: {
    filter: (node) =>
      node.nodeName === "SPAN" && node.style.fontStyle === "italic" && weight(node) !== "bold",
    replacement: (content) => wrapped(content, "*"),
  },
  // A picture within the text would make it many times as long; it is uploaded, not pasted along.
  picture: {
    filter: (node) => node.nodeName === "IMG" && !/^https?:/i.test(node.getAttribute("src") ?? ""),
    replacement: (_, node) => (node as HTMLElement).getAttribute("alt") ?? "",
  },
  link: {
    filter: (node) =>
      node.nodeName === "A" && !/^(https?:|mailto:|\/|#)/i.test(node.getAttribute("href") ?? ""),
    replacement: (content) => content,
  },
};

function weight(node: HTMLElement): "bold" | "normal" | undefined {
  const said = node.style.fontWeight;
  if (said === "bold" || Number(said) >= 600) return "bold";
  return said === "normal" || said === "400" ? "normal" : undefined;
}

/** Marks stand at words, not at the spaces round them. */
function wrapped(content: string, mark: string): string {
  const [, before = "", inner = "", after = ""] = /^(\s*)([\s\S]*?)(\s*)$/.exec(content) ?? [];
  return inner ? `${before}${mark}${inner}${mark}${after}` : content;
}

/** How deep the tree is, without going deeper than it may. */
function depth(root: Element): number {
  let level: Element[] = [root];
  let n = 0;
  while (level.length > 0 && n <= deepest) {
    level = level.flatMap((e) => [...e.children]);
    n++;
  }
  return n;
}
