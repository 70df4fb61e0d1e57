import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { answer, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { shownMoment } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";

/** Where one is signed in, each to be ended. */
export function SignIns() {
  const queries = useQueryClient();
  const say = useSay();
  const list = useQuery({
    queryKey: ["sign-ins"],
    queryFn: () => answer(api.GET("/api/v1/account/sign-ins")),
  });
  const again = () => void queries.invalidateQueries({ queryKey: ["sign-ins"] });
  const end = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/v1/account/sign-ins/{id}", { params: { path: { id } } })),
    onSettled: again,
    onError: say.trouble,
  });
  const endOthers = useMutation({
    mutationFn: () => answer(api.DELETE("/api/v1/account/sign-ins")),
    onSuccess: ({ ended }) =>
      say.done(ended === 1 ? "Signed out on 1 device." : `Signed out on ${ended} devices.`),
    onSettled: again,
    onError: say.trouble,
  });
  if (list.error) return <Warning>{list.error.message}</Warning>;
  const all = list.data ?? [];
  return (
    <div className="space-y-2">
      <ul className="min-h-11 divide-y divide-line border-y border-line text-sm">
        {all.map((s) => (
          <li key={s.id} className="flex min-h-11 items-center gap-3 py-1">
            <div className="min-w-0 flex-1">
              <p className="truncate">
                {s.browser} {s.here && <span className="font-semibold">this one</span>}
              </p>
              <p className="text-soft">
                from {s.address || "an unknown address"}, since {shownMoment(s.beganAt)}, seen{" "}
                {shownMoment(s.seenAt)}
              </p>
            </div>
            {!s.here && (
              <Button look="quiet" disabled={end.isPending} onClick={() => end.mutate(s.id)}>
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
      {all.length > 1 && (
        <Button disabled={endOthers.isPending} onClick={() => endOthers.mutate()}>
          Sign out everywhere else
        </Button>
      )}
    </div>
  );
}
