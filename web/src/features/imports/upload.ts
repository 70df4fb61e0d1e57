import { answer, api } from "../../api/client";

/** A file with the folders that it lies in. */
export type Piece = { path: string; file: File };

/** How much of a file goes in one request, in bytes: whole megabytes, as the server asks for. */
const part = 4 << 20;

/** Sends files, and tells how much of all has gone, from 0 to 1. */
export async function send(
  site: string,
  id: number,
  pieces: Piece[],
  tell: (done: number) => void,
  signal: AbortSignal,
) {
  const all = pieces.reduce((sum, p) => sum + p.file.size, 0) || 1;
  let sent = 0;
  for (const { path, file } of pieces) {
    let from = 0;
    do {
      const to = Math.min(from + part, file.size);
      await answer(
        api.PUT("/api/v1/sites/{site}/imports/{id}/file", {
          params: { path: { site, id }, query: { path, from, more: to < file.size } },
          // The generated types take a text for what is binary.
          body: file.slice(from, to) as unknown as string,
          bodySerializer: (body: unknown) => body as Blob,
          headers: { "Content-Type": "application/octet-stream" },
          signal,
        }),
      );
      sent += to - from;
      tell(sent / all);
      from = to;
    } while (from < file.size);
  }
}

/** The files of a field, with their folders where a folder was chosen. */
export const chosen = (files: FileList | null): Piece[] =>
  [...(files ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file })).filter(isMeant);

/** All files of what was dropped, folders too. */
export async function dropped(data: DataTransfer): Promise<Piece[]> {
  const entries = [...data.items].map((item) => item.webkitGetAsEntry()).filter((e) => e !== null);
  if (entries.length === 0) return chosen(data.files);
  const pieces = await Promise.all(entries.map((e) => within(e)));
  return pieces.flat().filter(isMeant);
}

/** What systems leave in folders is nobody's article. */
const isMeant = ({ path }: Piece) => !path.split("/").some((name) => name.startsWith("."));

async function within(entry: FileSystemEntry): Promise<Piece[]> {
  if (entry.isFile) {
    const file = await new Promise<File>((yes, no) => (entry as FileSystemFileEntry).file(yes, no));
    return [{ path: entry.fullPath.replace(/^\//, ""), file }];
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: Piece[] = [];
  // It gives a hundred at a time.
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((yes, no) => reader.readEntries(yes, no));
    if (some.length === 0) return found;
    found.push(...(await Promise.all(some.map(within))).flat());
  }
}

/** What a source is called: its archive, sheet or folder. */
export function nameOf(pieces: Piece[]): string {
  const [first] = pieces;
  if (!first) return "";
  const folder = first.path.includes("/") ? first.path.split("/")[0] : undefined;
  if (pieces.length > 1 && folder) return folder.slice(0, 120);
  const sheet = pieces.find((p) => /\.(xlsx|csv|tsv|zip)$/i.test(p.path)) ?? first;
  return sheet.file.name.replace(/\.[^.]+$/, "").slice(0, 120) || sheet.file.name.slice(0, 120);
}
