import { Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Sheet } from "../../ui/Sheet";
import { useSay } from "../../ui/toast";
import { TroubleHere, Warning } from "../../ui/Trouble";
import { useChannelDeeds, useDeletion, type Channel } from "./channels";

const counted = (n: number, one: string, more: string) => (n === 1 ? `1 ${one}` : `${n} ${more}`);

/** What goes along when a channel is deleted, before it is. */
export function DeleteChannel({
  site,
  channel,
  onClose,
}: {
  site: string;
  channel: Channel;
  onClose: () => void;
}) {
  const deletion = useDeletion(site, channel.id, true);
  const { remove } = useChannelDeeds(site);
  const say = useSay();
  const d = deletion.data;
  const go = () =>
    remove.mutateAsync({ id: channel.id, token: d?.token ?? "" }).then(
      () => {
        say.done(`${channel.name} is deleted.`);
        onClose();
      },
      () => void deletion.refetch(),
    );
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Delete ${channel.name}`}
      actions={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={!d || remove.isPending} onClick={() => void go()}>
            Delete {channel.name}
          </Button>
        </>
      }
    >
      {remove.error && (
        <Warning>
          {remove.error instanceof Refusal && remove.error.problem.status === 409
            ? "Something changed since this was shown. Look again."
            : remove.error.message}
        </Warning>
      )}
      {deletion.error && <TroubleHere error={deletion.error} retry={() => void deletion.refetch()} />}
      {d && (
        <ul className="list-disc space-y-1 pl-4 text-sm">
          <li>
            {d.planned === 0
              ? "No outing is waiting for it."
              : `${counted(d.planned, "outing that waits is", "outings that wait are")} dropped.`}
          </li>
          {d.off.length > 0 && <li>Turned off, for want of another channel: {d.off.join(", ")}.</li>}
          {d.rules.length > 0 && <li>Go on with their other channels: {d.rules.join(", ")}.</li>}
          {d.announcements > 0 && (
            <li>
              {counted(d.announcements, "message", "messages")} of what is shared when posts come out{" "}
              {d.announcements === 1 ? "is" : "are"} removed.
            </li>
          )}
          <li>
            {d.sent === 0
              ? "It has sent nothing yet."
              : `${counted(d.sent, "message that it sent stays", "messages that it sent stay")} on ${channel.network}; what they brought is forgotten here.`}
          </li>
          <li>This can’t be undone. You can connect the account again.</li>
        </ul>
      )}
    </Sheet>
  );
}
