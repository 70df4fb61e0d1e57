export type Theme = "light" | "dark" | "system";

const key = "dapper.theme";

export function storedTheme(): Theme {
  const stored = localStorage.getItem(key);
  return stored === "light" || stored === "dark" ? stored : "system";
}

/** Shows the theme and keeps it for the next visit; without one, the stored theme is shown. */
export function applyTheme(theme?: Theme) {
  if (theme) localStorage.setItem(key, theme);
  const chosen = theme ?? storedTheme();
  if (chosen === "system") delete document.documentElement.dataset.theme;
  else document.documentElement.dataset.theme = chosen;
}
