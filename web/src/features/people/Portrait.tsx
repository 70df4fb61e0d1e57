import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api } from "../../api/client";
import { useSay } from "../../ui/toast";
import { ShownPicture } from "../pictures/ShownPicture";

/** The picture of oneself that readers of this blog see with one's posts. */
export function Portrait({ site }: { site: string }) {
  const queries = useQueryClient();
  const say = useSay();
  const params = { path: { site } };
  const portrait = useQuery({
    queryKey: ["portrait", site],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/portrait", { params })),
  });
  const choose = useMutation({
    mutationFn: (id: number) => answer(api.PUT("/api/v1/sites/{site}/portrait", { params, body: { id } })),
    onSuccess: (chosen) => {
      queries.setQueryData(["portrait", site], chosen);
      void queries.invalidateQueries({ queryKey: ["pictures", site] });
      say.done(chosen.picture ? "Picture saved." : "Picture removed.");
    },
  });
  return (
    <ShownPicture
      site={site}
      label="Your picture"
      hint="Readers of this blog see it with your posts, as a circle."
      picture={portrait.data?.picture}
      owner
      error={choose.error?.message ?? portrait.error?.message}
      onChange={(picture) => choose.mutate(picture?.id ?? 0)}
    />
  );
}
