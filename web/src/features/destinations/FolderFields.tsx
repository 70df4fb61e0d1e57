import { TextField } from "../../ui/Field";
import type { DestinationBody } from "./destinations";

type Props = {
  body: DestinationBody;
  set: (change: Partial<DestinationBody>) => void;
  error: (field: string) => string | undefined;
  placeholders: string[];
  /** Its name; undefined: it has one, which stays. */
  folder: string | undefined;
  onFolder: (name: string) => void;
};

/** How a folder is laid out. */
export function FolderFields({ body, set, error, placeholders, folder, onFolder }: Props) {
  const field = (name: "posts" | "pages" | "pictures" | "pictureLink" | "address") => ({
    value: body[name] ?? "",
    error: error(name),
    onChange: (e: { target: { value: string } }) => set({ [name]: e.target.value }),
  });
  return (
    <>
      <div className="grid gap-3 sm:grid-cols-2">
        {folder !== undefined && (
          <TextField
            label="Folder on the server"
            hint="Below the one that whoever runs the program has set aside for this."
            value={folder}
            error={error("folder")}
            onChange={(e) => onFolder(e.target.value)}
          />
        )}
        <TextField
          label="Readers find posts at"
          placeholder="not known"
          hint="The address that your site generator gives posts, such as https://notes.example/{slug}/."
          {...field("address")}
        />
        <TextField label="Files of posts" {...field("posts")} />
        <TextField label="Files of pages" {...field("pages")} />
        <TextField label="Folder of pictures" {...field("pictures")} />
        <TextField
          label="Pictures are linked as"
          placeholder="the path from the file"
          hint="What stands before a picture’s name, such as /pictures/."
          {...field("pictureLink")}
        />
      </div>
      <p className="text-xs text-soft">
        Files and addresses may hold {placeholders.join(", ")}; dates are those on which a post first came
        out.
      </p>
    </>
  );
}
