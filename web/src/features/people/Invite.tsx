import { useState, type FormEvent } from "react";
import { answer, api, Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Copied } from "../../ui/Copied";
import { Field, TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { shownDay } from "../../ui/siteClock";
import { useSay } from "../../ui/toast";
import { roles, useInvitations, usePeopleChange, type Invitation, type Role } from "../blog/people";

/** Invites somebody, and lists whose invitations are open. */
export function Invite({ site }: { site: string }) {
  const [email, setEmail] = useState("");
  const [role, setRole] = useState<Role>("contributor");
  const open = useInvitations(site, true);
  const invite = usePeopleChange(site, () =>
    answer(
      api.POST("/api/v1/sites/{site}/invitations", {
        params: { path: { site } },
        body: { email: email.trim(), role },
      }),
    ),
  );
  const refusal = invite.error instanceof Refusal ? invite.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    invite.mutate(undefined, { onSuccess: () => setEmail("") });
  }
  return (
    <div className="space-y-3">
      {invite.error && !refusal?.problem.errors && <Warning>{invite.error.message}</Warning>}
      <form onSubmit={submit} className="flex flex-wrap items-start gap-3">
        <div className="w-64">
          <TextField
            label="E-mail"
            type="email"
            required
            value={email}
            error={refusal?.field("email")}
            onChange={(e) => setEmail(e.target.value)}
          />
        </div>
        <div className="w-56">
          <Field label="Role" hint={roles.find((r) => r.value === role)?.hint}>
            <Choice label="Role" value={role} options={roles} onChange={setRole} />
          </Field>
        </div>
        <Button type="submit" className="mt-5.5" disabled={invite.isPending || email.trim() === ""}>
          Invite
        </Button>
      </form>
      {invite.data?.link && (
        <div role="status" className="space-y-1">
          <p className="text-sm">
            {invite.data.email} is invited, and a mail is on its way. The link is shown this once:
          </p>
          <Copied label="Invitation link" text={invite.data.link} />
        </div>
      )}
      {open.data && open.data.length > 0 && (
        <ul aria-label="Pending invitations" className="divide-y divide-line border-y border-line">
          {open.data.map((i) => (
            <OpenInvitation key={i.id} site={site} invitation={i} />
          ))}
        </ul>
      )}
    </div>
  );
}

function OpenInvitation({ site, invitation }: { site: string; invitation: Invitation }) {
  const say = useSay();
  const withdraw = usePeopleChange(site, () =>
    answer(
      api.DELETE("/api/v1/sites/{site}/invitations/{id}", {
        params: { path: { site, id: invitation.id } },
      }),
    ),
  );
  return (
    <li className="flex min-h-9 items-center gap-3 py-1 text-sm">
      <span className="min-w-0 flex-1 truncate">
        {invitation.email} <span className="text-soft">as {invitation.role}</span>
      </span>
      <span className={invitation.over ? "text-madder" : "text-soft"}>
        {invitation.over ? "expired, invite them again" : `until ${shownDay(invitation.expires)}`}
      </span>
      <Button
        look="quiet"
        aria-label={`Withdraw the invitation to ${invitation.email}`}
        disabled={withdraw.isPending}
        onClick={() =>
          withdraw.mutate(undefined, {
            onSuccess: () => say.done(`Invitation to ${invitation.email} withdrawn.`),
            onError: say.trouble,
          })
        }
      >
        Withdraw
      </Button>
    </li>
  );
}
