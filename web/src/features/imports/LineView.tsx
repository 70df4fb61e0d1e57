import "./laid.css";
import { shownMoment } from "../../ui/siteClock";
import type { Line } from "./imports";

/** A line as the post that it becomes, or why it does not. */
export function LineView({ line: l, whole = false }: { line: Line; whole?: boolean }) {
  const left = l.state === "left";
  const facts = [
    l.category,
    l.tags?.map((t) => `#${t}`).join(" "),
    l.author && `by ${l.author}`,
    l.page && "a page",
    l.link && `a link item, to ${l.link}`,
    l.date && shownMoment(l.date),
    l.words !== undefined && l.words > 0 && `${l.words} words`,
  ].filter(Boolean);
  return (
    <article>
      <p className="text-xs text-soft">{l.place}</p>
      <h3 className={`font-title text-lg wrap-anywhere ${left ? "text-soft line-through" : ""}`}>
        {l.title || "Untitled"}
      </h3>
      {left && <p className="text-sm text-madder">{l.reason}</p>}
      {facts.length > 0 && <p className="text-sm wrap-anywhere text-soft">{facts.join(" · ")}</p>}
      {l.picture && (
        <img src={l.picture} alt="" className="mt-1.5 max-h-40 rounded-md border border-line object-cover" />
      )}
      {l.excerpt && <p className="mt-1.5 text-sm wrap-anywhere italic">{l.excerpt}</p>}
      {l.html && (
        <div
          className={`laid mt-1.5 text-sm wrap-anywhere ${whole ? "" : "max-h-28 overflow-hidden [mask-image:linear-gradient(black_60%,transparent)]"}`}
          // What the server has laid out is safe to show.
          dangerouslySetInnerHTML={{ __html: l.html }}
        />
      )}
      {l.fields && Object.keys(l.fields).length > 0 && (
        <dl className="mt-1.5 flex flex-wrap gap-x-4 text-xs text-soft">
          {Object.entries(l.fields).map(([name, value]) => (
            <div key={name} className="flex gap-1">
              <dt>{name}:</dt>
              <dd className="wrap-anywhere text-ink">{value}</dd>
            </div>
          ))}
        </dl>
      )}
      {!left && l.notes.length > 0 && (
        <ul className="mt-1 text-xs text-soft">
          {l.notes.map((n) => (
            <li key={n}>{n}</li>
          ))}
        </ul>
      )}
    </article>
  );
}
