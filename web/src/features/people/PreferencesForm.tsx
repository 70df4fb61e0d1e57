import { Choice } from "../../ui/Choice";
import { Field } from "../../ui/Field";
import { useSay } from "../../ui/toast";
import { useSavePreferences, type Preferences } from "../session/preferences";

const fields = [
  {
    key: "weekStart",
    label: "Weeks begin on",
    options: [
      { value: "monday", name: "Monday" },
      { value: "sunday", name: "Sunday" },
      { value: "saturday", name: "Saturday" },
    ],
  },
  {
    key: "clock",
    label: "Time format",
    options: [
      { value: "24", name: "24 hours, 14:30" },
      { value: "12", name: "12 hours, 2:30 pm" },
    ],
  },
  {
    key: "density",
    label: "Row height",
    options: [
      { value: "roomy", name: "Roomy" },
      { value: "dense", name: "Dense" },
    ],
  },
  {
    key: "theme",
    label: "Appearance",
    options: [
      { value: "system", name: "Same as the system" },
      { value: "light", name: "Light" },
      { value: "dark", name: "Dark" },
    ],
  },
] as const;

/** How one likes the screens; each choice holds at once. */
export function PreferencesForm({ preferences }: { preferences: Preferences }) {
  const save = useSavePreferences();
  const say = useSay();
  return (
    <div className="grid max-w-lg grid-cols-2 gap-3">
      {fields.map(({ key, label, options }) => (
        <Field key={key} label={label}>
          <Choice
            label={label}
            value={preferences[key] as string}
            options={[...options] as { value: string; name: string }[]}
            onChange={(value) =>
              save.mutate({ ...preferences, [key]: value } as Preferences, { onError: say.trouble })
            }
          />
        </Field>
      ))}
    </div>
  );
}
