import { useState } from "react";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { PicturePicker } from "../pictures/PicturePicker";

type Value = { from?: string; id?: number };

const options = [
  { value: "featured", name: "the featured image" },
  { value: "text", name: "the first picture in the text" },
  { value: "library", name: "one picture of the library" },
  { value: "none", name: "no picture" },
];

type Props = {
  site: string;
  value: Value;
  /** Whether it is of a post, whose own pictures can be meant. */
  ofPost?: boolean;
  onChange: (value: Value) => void;
};

/** Which picture a message brings along. */
export function MessagePicture({ site, value, ofPost = true, onChange }: Props) {
  const [choosing, setChoosing] = useState(false);
  const from = value.from || (ofPost ? "featured" : "none");
  return (
    <div className="flex flex-wrap items-center gap-2">
      <div className="w-60">
        <Choice
          label="Picture"
          value={from}
          options={options.filter((o) => ofPost || o.value === "library" || o.value === "none")}
          onChange={(next) => {
            if (next === "library") setChoosing(true);
            else onChange({ from: next });
          }}
        />
      </div>
      {from === "library" && <Button onClick={() => setChoosing(true)}>Choose another…</Button>}
      <PicturePicker
        site={site}
        open={choosing}
        onClose={() => setChoosing(false)}
        onChoose={(picture) => {
          setChoosing(false);
          onChange({ from: "library", id: picture.id });
        }}
      />
    </div>
  );
}
