import { useState } from "react";
import { useParams } from "react-router";
import { answer, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Part } from "../../ui/Part";
import { Sheet } from "../../ui/Sheet";
import { Trouble } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { useSay } from "../../ui/toast";
import { useOwner } from "../session/session";
import { Invite } from "./Invite";
import { roles, usePeople, usePeopleChange, type Person, type Role } from "../blog/people";

/** Who is of the blog, and who is invited. */
export default function PeopleScreen() {
  const { site = "" } = useParams();
  const people = usePeople(site);
  const owner = useOwner(site);
  if (people.isPending) return <Waiting what="the people" />;
  if (people.error) return <Trouble error={people.error} retry={() => void people.refetch()} />;
  return (
    <main className="mx-auto w-full max-w-4xl px-5 pt-4 pb-10">
      <h1 className="mb-4 font-title text-2xl">People</h1>
      <Part
        title="People on this blog"
        hint={
          owner ? "People who leave keep their name under their posts." : "Owners invite and remove people."
        }
      >
        <ul className="divide-y divide-line border-y border-line">
          {people.data.map((p) => (
            <PersonRow key={p.id} site={site} person={p} owner={owner} />
          ))}
        </ul>
      </Part>
      {owner && (
        <Part
          title="Invite"
          hint="The link works once, within a week. It goes by mail, and you can copy it here."
        >
          <Invite site={site} />
        </Part>
      )}
    </main>
  );
}

function PersonRow({ site, person, owner }: { site: string; person: Person; owner: boolean }) {
  const [leaving, setLeaving] = useState(false);
  const say = useSay();
  const path = { site, person: person.id };
  const change = usePeopleChange(site, (role: Role) =>
    answer(api.PUT("/api/v1/sites/{site}/people/{person}", { params: { path }, body: { role } })),
  );
  const remove = usePeopleChange(site, () =>
    answer(api.DELETE("/api/v1/sites/{site}/people/{person}", { params: { path } })),
  );
  return (
    <li className="flex min-h-11 flex-wrap items-center gap-x-4 gap-y-1 py-1.5">
      <div className="min-w-48 flex-1">
        <p className="font-semibold">
          {person.name} {person.you && <span className="font-normal text-soft">(you)</span>}
        </p>
        <p className="text-sm text-soft">
          {[person.email, person.posts === 1 ? "1 post" : `${person.posts} posts`]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </div>
      {owner ? (
        <>
          <div className="w-36">
            <Choice
              label={`Role of ${person.name}`}
              value={person.role}
              options={roles}
              onChange={(role) =>
                change.mutate(role, {
                  onSuccess: () => say.done(`${person.name} is now ${withArticle(role)}.`),
                  onError: say.trouble,
                })
              }
            />
          </div>
          <Button look="quiet" aria-label={`Remove ${person.name}…`} onClick={() => setLeaving(true)}>
            Remove…
          </Button>
        </>
      ) : (
        <span className="text-sm text-soft">{person.role}</span>
      )}
      <Sheet
        open={leaving}
        onClose={() => setLeaving(false)}
        title={`Remove ${person.name}`}
        actions={
          <>
            <Button onClick={() => setLeaving(false)}>Cancel</Button>
            <Button
              look="trouble"
              disabled={remove.isPending}
              onClick={() =>
                remove.mutate(undefined, {
                  onSuccess: () => say.done(`${person.name} was removed from this blog.`),
                  onError: (error) => {
                    setLeaving(false);
                    say.trouble(error);
                  },
                })
              }
            >
              Remove {person.name}
            </Button>
          </>
        }
      >
        <p>
          {person.name} can no longer open this blog, and the tokens they made for it end.{" "}
          {person.posts > 0
            ? `Their ${person.posts === 1 ? "post stays" : `${person.posts} posts stay`}, with their name.`
            : "They have written no posts."}
        </p>
      </Sheet>
    </li>
  );
}

const withArticle = (role: string) => `${/^[aeiou]/.test(role) ? "an" : "a"} ${role}`;
