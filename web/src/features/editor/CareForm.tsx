import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Button, IconButton } from "../../ui/Button";
import { Field, inputLook, TextField } from "../../ui/Field";
import { TimeField } from "../../ui/TimeField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import type { Autosave } from "./autosave";

type Care = Schemas["Care"];
type Post = Schemas["Post"];

/** What rules are to know of the post: its own expiry or never, evergreen, custom fields, excerpt. */
export function CareForm({ site, autosave, post }: { site: string; autosave: Autosave; post: Post }) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Upkeep" className="rounded-md border border-line bg-sheet text-sm">
      <button
        type="button"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        className="w-full px-3 py-2 text-left hover:bg-ground"
      >
        <span className="font-semibold">Upkeep</span>
        <span className="block text-soft">{summary(post.care)}</span>
      </button>
      {open && (
        <Form
          key={JSON.stringify(post.care)}
          site={site}
          autosave={autosave}
          post={post}
          onDone={() => setOpen(false)}
        />
      )}
    </section>
  );
}

function summary(care: Care): string {
  const said = [
    care.neverExpires
      ? "never expires"
      : care.expires
        ? `expires ${care.expires.date} ${care.expires.clock}`
        : "",
    care.evergreen ? "evergreen" : "",
    ...Object.entries(care.fields).map(([name, value]) => `${name}: ${value}`),
  ].filter(Boolean);
  return said.length > 0 ? said.join(" · ") : "Nothing said to rules.";
}

function Form({
  site,
  autosave,
  post,
  onDone,
}: {
  site: string;
  autosave: Autosave;
  post: Post;
  onDone: () => void;
}) {
  const [care, setCare] = useState<Care>(post.care);
  const [fields, setFields] = useState(Object.entries(post.care.fields));
  const [error, setError] = useState<Refusal>();
  const [busy, setBusy] = useState(false);
  const say = useSay();
  const set = (change: Partial<Care>) => setCare({ ...care, ...change });

  async function save() {
    setBusy(true);
    setError(undefined);
    try {
      if (!(await autosave.flush()))
        throw new Error("First mend what is marked, so that all of it is saved.");
      const { id, version } = autosave.snapshot().post;
      const body = {
        version,
        care: { ...care, fields: Object.fromEntries(fields.filter(([name]) => name !== "")) },
      };
      autosave.adopt(
        await answer(
          api.PUT("/api/v1/sites/{site}/posts/{id}/care", { params: { path: { site, id } }, body }),
        ),
      );
      say.done("Rules know of it.");
      onDone();
    } catch (failed) {
      if (failed instanceof Refusal) setError(failed);
      else say.trouble(failed);
    } finally {
      setBusy(false);
    }
  }

  return (
    <div className="space-y-3 border-t border-line px-3 py-3">
      {error && <Warning>{error.message}</Warning>}
      <Tick
        label="Never expires"
        on={care.neverExpires}
        onChange={(neverExpires) => set({ neverExpires, ...(neverExpires ? { expires: undefined } : {}) })}
      />
      {!care.neverExpires && (
        <div>
          <Tick
            label="Expires at a time of its own"
            on={care.expires !== undefined}
            onChange={(on) => set({ expires: on ? { date: "", clock: "00:00" } : undefined })}
          />
          {care.expires && (
            <div className="mt-1 flex gap-2">
              <TextField
                label="Date of expiry"
                hideLabel
                type="date"
                className="w-36!"
                value={care.expires.date}
                onChange={(e) =>
                  set({ expires: { date: e.target.value, clock: care.expires?.clock ?? "00:00" } })
                }
              />
              <TimeField
                label="Time of expiry"
                hideLabel
                value={care.expires.clock}
                onChange={(clock) => set({ expires: { date: care.expires?.date ?? "", clock } })}
              />
            </div>
          )}
        </div>
      )}
      <Tick label="Evergreen" on={care.evergreen} onChange={(evergreen) => set({ evergreen })} />
      <Field label="Excerpt" hint="Where it is empty, messages take the beginning of the text.">
        <textarea
          aria-label="Excerpt"
          rows={3}
          value={care.excerpt}
          onChange={(e) => set({ excerpt: e.target.value })}
          className={`${inputLook} h-auto! resize-y py-1`}
        />
      </Field>
      <div>
        <p className="mb-1 text-soft">Custom fields</p>
        {fields.map(([name, value], i) => (
          // Fields are told apart by their place while their names are being written.
          <div key={i} className="mb-1 flex gap-1">
            <input
              aria-label="Name of the field"
              className={inputLook}
              value={name}
              onChange={(e) => setFields(fields.map((f, j) => (j === i ? [e.target.value, f[1]] : f)))}
            />
            <input
              aria-label={`Value of ${name || "the field"}`}
              className={inputLook}
              value={value}
              onChange={(e) => setFields(fields.map((f, j) => (j === i ? [f[0], e.target.value] : f)))}
            />
            <IconButton
              label={`Remove the field ${name}`}
              onClick={() => setFields(fields.filter((_, j) => j !== i))}
            >
              <Trash2 size={14} />
            </IconButton>
          </div>
        ))}
        <Button look="quiet" icon={<Plus size={14} />} onClick={() => setFields([...fields, ["", ""]])}>
          Add a field
        </Button>
      </div>
      <Button disabled={busy || care.expires?.date === ""} onClick={() => void save()} className="w-full">
        Save upkeep
      </Button>
    </div>
  );
}
