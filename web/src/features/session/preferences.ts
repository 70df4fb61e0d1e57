import { useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api, type Schemas } from "../../api/client";
import { setTwelveHours } from "../../ui/civil";
import { setWeekStart } from "../../ui/siteClock";
import { applyTheme } from "../../ui/theme";

export type Preferences = Schemas["Preferences"];

/** How the screens are as long as nobody has said otherwise. */
export const usualPreferences: Preferences = {
  weekStart: "monday",
  clock: "24",
  density: "roomy",
  theme: "system",
};

/** Has the screens be as one likes them. */
export function applyPreferences({ clock, density, theme, weekStart }: Preferences) {
  setTwelveHours(clock === "12");
  setWeekStart(weekStart);
  document.documentElement.dataset.density = density;
  applyTheme(theme);
}

export function useSavePreferences() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Preferences) => answer(api.PUT("/api/v1/account/preferences", { body })),
    onSuccess: (me) => {
      applyPreferences(me.preferences);
      queries.setQueryData(["session"], me);
    },
  });
}
