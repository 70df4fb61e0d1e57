import { answer, api, type Schemas } from "../../api/client";
import { useSay } from "../../ui/toast";

/** Makes a secret link to a post as it is, or as a timed edit will leave it. */
export function makePreview(site: string, id: number, days: number, edit?: number) {
  return answer(
    api.POST("/api/v1/sites/{site}/posts/{id}/previews", {
      params: { path: { site, id } },
      body: { days, ...(edit ? { edit } : {}) },
    }),
  );
}

/** Opens what a secret link shows in a new tab. */
export function usePreviewTab() {
  const say = useSay();
  return async (make: () => Promise<Schemas["SecretLink"]>) => {
    // The tab is opened while the click is still one, or the browser would forbid it.
    const tab = window.open("about:blank", "_blank");
    try {
      const path = new URL((await make()).address ?? "").pathname;
      if (tab) tab.location.replace(path);
      else say.trouble(new Error("The browser blocked the new tab. Allow pop-ups for this address."));
    } catch (error) {
      tab?.close();
      say.trouble(error);
    }
  };
}
