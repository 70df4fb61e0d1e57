import { useEffect, useRef, useState } from "react";

type Props = {
  site: string;
  title: string;
  above: string;
  byline: string;
  lead: { address: string; alt: string };
  html: string;
};

// A page of its own, so that it looks as it will on the blog. It runs no script, and its links lead nowhere.
const page = (
  site: string,
) => `<!doctype html><html lang="en"><head><link rel="stylesheet" href="/blog/blog.css">
<link rel="stylesheet" href="/blog/${encodeURIComponent(site)}/look.css">
<style>body{padding-top:1.5rem;padding-bottom:2rem} a{pointer-events:none}</style></head>
<body><article><header class="heading"><p></p><h1></h1><p class="by"></p></header><figure class="lead"><img></figure><div class="text"></div></article></body></html>`;

/** The text as readers will see it. The server has rendered it and taken out what could harm. */
export function ReaderView({ site, title, above, byline, lead, html }: Props) {
  const frame = useRef<HTMLIFrameElement>(null);
  const [loaded, setLoaded] = useState(0);
  useEffect(() => {
    const inside = frame.current?.contentDocument;
    const text = inside?.querySelector(".text");
    if (!inside || !text) return;
    inside.querySelector("h1")!.textContent = title || "No title yet";
    inside.querySelector("header p")!.textContent = above;
    inside.querySelector(".by")!.textContent = byline;
    const image = inside.querySelector<HTMLImageElement>(".lead img")!;
    if (image.getAttribute("src") !== lead.address) image.setAttribute("src", lead.address);
    image.alt = lead.alt;
    inside.querySelector<HTMLElement>(".lead")!.hidden = !lead.address;
    if (text.innerHTML !== html) text.innerHTML = html;
  }, [title, above, byline, lead, html, loaded]);
  return (
    <iframe
      ref={frame}
      title="As readers will see it"
      sandbox="allow-same-origin"
      srcDoc={page(site)}
      onLoad={() => setLoaded((n) => n + 1)}
      className="min-h-96 w-full flex-1 rounded-md border border-line bg-sheet"
    />
  );
}
