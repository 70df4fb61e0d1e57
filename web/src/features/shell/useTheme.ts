import { applyTheme, type Theme } from "../../ui/theme";
import { useSavePreferences } from "../session/preferences";
import type { Me } from "../session/session";

/** The themes, by name. */
export const themes: { theme: Theme; name: string }[] = [
  { theme: "light", name: "Light" },
  { theme: "dark", name: "Dark" },
  { theme: "system", name: "Same as the system" },
];

/** Shows a theme at once, and keeps it for all of one's browsers. */
export function useTheme(me: Me) {
  const save = useSavePreferences();
  return (theme: Theme) => {
    applyTheme(theme);
    save.mutate({ ...me.preferences, theme });
  };
}
