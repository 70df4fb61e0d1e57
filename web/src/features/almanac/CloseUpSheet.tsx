import { useQuery } from "@tanstack/react-query";
import { MoveRight } from "lucide-react";
import { answer, api, Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { clock } from "../../ui/civil";
import { shownDate } from "../../ui/siteClock";
import { Sheet } from "../../ui/Sheet";
import { Warning } from "../../ui/Trouble";
import { useTell } from "../logbook/useTell";
import { useCloseUp, type Place } from "../plan/almanac";

/** What closing up would move, from where to where; pinned posts and the shelf stay. */
export function CloseUpSheet({ site, open, onClose }: { site: string; open: boolean; onClose: () => void }) {
  const proposal = useQuery({
    queryKey: ["plan", site, "closing"],
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/closing", { params: { path: { site } } })),
    enabled: open,
    staleTime: 0,
  });
  const closeUp = useCloseUp(site);
  const tell = useTell(site);
  const changed = closeUp.error instanceof Refusal ? closeUp.error.problem.closing : undefined;
  const shown = changed ?? proposal.data;
  const shifts = shown?.shifts ?? [];
  const count = shifts.length === 1 ? "1 post" : `${shifts.length} posts`;

  function close() {
    closeUp.reset();
    onClose();
  }
  function go() {
    closeUp.mutate(shown?.token ?? "", {
      onSuccess: () => {
        tell(`${count} moved.`);
        close();
      },
    });
  }

  return (
    <Sheet
      open={open}
      onClose={close}
      title="Close up the plan"
      actions={
        <>
          <Button onClick={close}>Cancel</Button>
          <Button look="main" onClick={go} disabled={closeUp.isPending || shifts.length === 0}>
            Move {count}
          </Button>
        </>
      }
    >
      {closeUp.error && <Warning>{closeUp.error.message}</Warning>}
      {proposal.error && <Warning>{proposal.error.message}</Warning>}
      {proposal.data && shifts.length === 0 && (
        <p>
          There is nothing to close up: every scheduled post is in the first slot it may take. Pinned posts
          stay in any case.
        </p>
      )}
      <table className="w-full text-sm">
        <tbody>
          {shifts.map((s) => (
            <tr key={s.id} className="border-b border-line align-top last:border-0">
              <td className="py-1.5 pr-3 whitespace-nowrap text-soft">
                <When place={s.from} />
              </td>
              <td className="py-1.5 pr-3">
                <MoveRight size={14} aria-label="moves to" className="mt-0.5" />
              </td>
              <td className="py-1.5 pr-4 whitespace-nowrap">
                <When place={s.to} />
              </td>
              <td className="py-1.5 font-medium">
                {s.title}
                <span className="block text-xs font-normal text-soft">{s.reason}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}

function When({ place }: { place: Place }) {
  return (
    <>
      {shownDate(place.date)}, <span className="font-semibold">{clock(place.minute)}</span>
    </>
  );
}
