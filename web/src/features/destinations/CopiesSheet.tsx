import { useState } from "react";
import { Link } from "react-router";
import { Button } from "../../ui/Button";
import { inputLook } from "../../ui/Field";
import { Sheet } from "../../ui/Sheet";
import { shownPlace } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { Trouble, Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { usePlanner } from "../session/session";
import { useCopies, useDestinationDeeds, type CopyView, type Destination } from "./destinations";

type Props = { site: string; destination: Destination; onClose: () => void };

/** Posts that could not be brought to a destination, and those that were brought last. */
export function CopiesSheet({ site, destination: d, onClose }: Props) {
  const copies = useCopies(site, d.id);
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={`Posts at ${d.name}`}
      actions={
        <Button look="main" onClick={onClose}>
          Close
        </Button>
      }
    >
      {copies.isPending ? (
        <Waiting what="the posts" />
      ) : copies.error ? (
        <Trouble error={copies.error} retry={() => void copies.refetch()} />
      ) : (
        <>
          {copies.data.troubled.length > 0 && (
            <section aria-label="In trouble" className="mb-4">
              <h3 className="mb-1 text-base font-semibold">In trouble</h3>
              <ul className="divide-y divide-line border-y border-line">
                {copies.data.troubled.map((c) => (
                  <TroubledCopy key={c.post} site={site} destination={d} copy={c} />
                ))}
              </ul>
            </section>
          )}
          <h3 className="mb-1 text-base font-semibold">Latest</h3>
          {copies.data.latest.length === 0 ? (
            <p className="text-sm text-soft">Nothing has been brought there yet.</p>
          ) : (
            <ul aria-label="Latest" className="divide-y divide-line border-y border-line">
              {copies.data.latest.map((c) => (
                <li key={c.post} className="flex flex-wrap gap-x-3 gap-y-0.5 py-1.5 text-sm">
                  <span className="w-32 shrink-0 text-soft">{c.brought && shownPlace(c.brought)}</span>
                  <span className="min-w-48 flex-1">
                    <Titled site={site} copy={c} />
                    <span className="block text-xs wrap-anywhere text-soft">
                      {c.state === "there" ? <Place copy={c} /> : "removed there"}
                    </span>
                  </span>
                </li>
              ))}
            </ul>
          )}
        </>
      )}
    </Sheet>
  );
}

function Titled({ site, copy: c }: { site: string; copy: CopyView }) {
  if (c.title === undefined) return <i>a deleted post</i>;
  return (
    <Link to={`/${site}/write/${c.post}`} className="underline-offset-2 hover:underline">
      {c.title || "Untitled"}
    </Link>
  );
}

/** A path or an address, led to where readers find it. */
export function Place({ copy: c }: { copy: CopyView }) {
  return (
    <>
      {c.place !== c.url && <span className="mr-2">{c.place}</span>}
      {c.url && (
        <a href={c.url} className="underline underline-offset-2">
          {c.url}
        </a>
      )}
    </>
  );
}

function TroubledCopy({
  site,
  destination: d,
  copy: c,
}: {
  site: string;
  destination: Destination;
  copy: CopyView;
}) {
  const { again } = useDestinationDeeds(site);
  const [address, setAddress] = useState("");
  const editor = usePlanner(site);
  const say = useSay();
  const go = (how: { replace?: boolean; url?: string }) =>
    again
      .mutateAsync({ id: d.id, post: c.post, ...how })
      .then(() => say.done("It is being tried again."), say.trouble);
  return (
    <li className="py-2 text-sm">
      <Titled site={site} copy={c} />
      <Warning>{c.error ?? ""}</Warning>
      <p className="text-xs text-soft">
        {c.held ? "It is not tried again until you say so, or the post changes." : null}
        {c.next && `Tried ${c.tries ?? 0} times; again ${shownPlace(c.next)}.`}
      </p>
      {editor && (
        <div className="mt-1 flex flex-wrap items-center gap-1.5">
          <Button disabled={again.isPending} onClick={() => void go({})}>
            {c.unsure || c.state === "lost" ? "Send it again" : "Try again now"}
          </Button>
          {d.kind === "folder" && c.held && (
            <Button disabled={again.isPending} onClick={() => void go({ replace: true })}>
              Write over the file
            </Button>
          )}
          {c.unsure && c.held && (
            <>
              <span className="text-xs text-soft">or it is there, at</span>
              <input
                aria-label="Its address there"
                placeholder="https://"
                value={address}
                onChange={(e) => setAddress(e.target.value)}
                className={`${inputLook} max-w-64`}
              />
              <Button disabled={!address.trim() || again.isPending} onClick={() => void go({ url: address })}>
                Use this address
              </Button>
            </>
          )}
        </div>
      )}
    </li>
  );
}
