import { expect, test } from "vitest";

const sources = import.meta.glob<string>("./**/*.{ts,tsx}", {
  query: "?raw",
  import: "default",
  eager: true,
});

/** The part of the house that a file belongs to: a feature's folder, or one beside them. */
const partOf = (path: string) =>
  path
    .split("/")
    .slice(0, path.startsWith("features/") ? 2 : 1)
    .join("/");

/** Which parts each part imports from, with the files that do. */
function imports(): Map<string, Map<string, string>> {
  const found = new Map<string, Map<string, string>>();
  for (const [path, text] of Object.entries(sources)) {
    if (path.includes(".test.")) continue;
    const file = path.replace("./", "");
    for (const [, to] of text.matchAll(/(?:from|import\()\s*"(\.[^"]+)"/g)) {
      const target = new URL(to!, `file:///${file}`).pathname.slice(1);
      const [here, there] = [partOf(file), partOf(target)];
      if (here === there) continue;
      const of = found.get(here) ?? new Map<string, string>();
      found.set(here, of.set(there, `${file} imports ${target}`));
    }
  }
  return found;
}

test("no folders of features import each other in a circle", () => {
  const all = imports();
  expect(all.size).toBeGreaterThan(10);
  const done = new Set<string>();
  function walk(part: string, way: string[]) {
    const from = way.indexOf(part);
    if (from >= 0) {
      const circle = [...way.slice(from), part];
      throw new Error(
        circle
          .slice(1)
          .map((to, i) => all.get(circle[i]!)!.get(to))
          .join("\n"),
      );
    }
    if (done.has(part)) return;
    for (const next of all.get(part)?.keys() ?? []) walk(next, [...way, part]);
    done.add(part);
  }
  for (const part of all.keys()) walk(part, []);
});

test("nothing that is shared imports from a feature", () => {
  const all = imports();
  for (const part of ["ui", "api"])
    for (const [to, how] of all.get(part) ?? []) expect(to.startsWith("features/"), how).toBe(false);
});
