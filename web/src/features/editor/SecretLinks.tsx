import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { Eye } from "lucide-react";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Copied } from "../../ui/Copied";
import { shownMoment } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import type { Autosave } from "./autosave";
import { makePreview, usePreviewTab } from "../post/previewLink";
import { saved } from "./deeds";

const lives = [
  { value: 1, name: "for a day" },
  { value: 7, name: "for a week" },
  { value: 30, name: "for 30 days" },
];

type Props = { site: string; autosave: Autosave };

/** Opens the post in a new tab as readers will see it. */
export function SeeIt({ site, autosave }: Props) {
  const open = usePreviewTab();
  const go = () => open(() => saved(autosave).then(({ id }) => makePreview(site, id, 1)));
  return (
    <Button look="quiet" icon={<Eye size={14} />} onClick={() => void go()}>
      Preview
    </Button>
  );
}

/** Links by which others see the post before it is out. */
export function SecretLinks({ site, autosave }: Props) {
  const { id } = autosave.snapshot().post;
  const [days, setDays] = useState(7);
  const queries = useQueryClient();
  const say = useSay();
  const key = ["previews", site, id];
  const links = useQuery({
    queryKey: key,
    queryFn: () =>
      answer(api.GET("/api/v1/sites/{site}/posts/{id}/previews", { params: { path: { site, id } } })),
    enabled: id !== 0,
  });
  const again = () => void queries.invalidateQueries({ queryKey: key });
  const making = useMutation({
    mutationFn: () => saved(autosave).then((post) => makePreview(site, post.id, days)),
    onSettled: again,
    onError: say.trouble,
  });
  const end = useMutation({
    mutationFn: (link: number) =>
      answer(
        api.DELETE("/api/v1/sites/{site}/posts/{id}/previews/{link}", {
          params: { path: { site, id, link } },
        }),
      ),
    onSettled: again,
    onError: say.trouble,
  });
  return (
    <>
      <p className="text-soft">Anyone with the link can read the post until the link expires.</p>
      <div className="flex gap-2">
        <div className="w-28 shrink-0">
          <Choice label="Link lasts" value={days} options={lives} onChange={setDays} />
        </div>
        <Button disabled={making.isPending} onClick={() => making.mutate()}>
          Create a link
        </Button>
      </div>
      {making.data?.address && <Copied label="Secret link" text={making.data.address} />}
      <ul>
        {(links.data ?? []).map((l) => (
          <li key={l.id} className="flex items-center gap-2 text-xs text-soft">
            <span className="flex-1">
              {l.by}, until {shownMoment(l.expires)}
            </span>
            <Button look="quiet" className="h-6! px-2!" onClick={() => end.mutate(l.id)}>
              End
            </Button>
          </li>
        ))}
      </ul>
    </>
  );
}
