import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState, type FormEvent } from "react";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Copied } from "../../ui/Copied";
import { TextField } from "../../ui/Field";
import { NumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/Tick";
import { useSay } from "../../ui/toast";
import { shownDay } from "../../ui/siteClock";
import { Warning } from "../../ui/Trouble";
import { showWrong } from "../../ui/useFormOf";
import { useSession } from "../session/session";

const scopes = [
  { value: "read", name: "look at everything" },
  { value: "write", name: "write drafts and posts" },
  { value: "plan", name: "change the plan, rules and settings" },
];

/** Tokens for scripts: made, listed, ended. */
export function Tokens({ site }: { site: string }) {
  const queries = useQueryClient();
  const role = useSession().data?.sites.find((s) => s.slug === site)?.role;
  const key = ["tokens", site];
  const list = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/v1/sites/{site}/tokens", { params: { path: { site } } })),
  });
  const again = () => void queries.invalidateQueries({ queryKey: key });
  if (list.error) return <Warning>{list.error.message}</Warning>;
  return (
    <div className="space-y-3">
      {role === "contributor" ? (
        <p className="text-sm text-soft">Only editors and owners can create tokens.</p>
      ) : (
        <MakeToken site={site} onMade={again} />
      )}
      {list.data && list.data.length > 0 && (
        <ul aria-label="Tokens" className="divide-y divide-line border-y border-line text-sm">
          {list.data.map((t) => (
            <TokenRow key={t.id} site={site} token={t} onEnded={again} />
          ))}
        </ul>
      )}
    </div>
  );
}

function MakeToken({ site, onMade }: { site: string; onMade: () => void }) {
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState(["read"]);
  const [days, setDays] = useState(90);
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/v1/sites/{site}/tokens", {
          params: { path: { site } },
          body: { name, scopes: chosen, days },
        }),
      ),
    onSuccess: () => {
      setName("");
      onMade();
    },
  });
  const refusal = make.error instanceof Refusal ? make.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    if (Number.isNaN(days)) showWrong();
    else make.mutate();
  }
  return (
    <form onSubmit={submit} className="space-y-2">
      {make.error && !refusal?.problem.errors && <Warning>{make.error.message}</Warning>}
      <div className="flex flex-wrap items-start gap-3">
        <div className="w-56">
          <TextField
            label="Used for"
            value={name}
            error={refusal?.field("name")}
            onChange={(e) => setName(e.target.value)}
          />
        </div>
        <div className="w-28">
          <NumberField label="Days valid" value={days} error={refusal?.field("days")} onChange={setDays} />
        </div>
        <Button type="submit" className="mt-5.5" disabled={name.trim() === "" || make.isPending}>
          Create token
        </Button>
      </div>
      <div role="group" aria-label="Permissions" className="flex flex-wrap gap-4">
        {scopes.map((s) => (
          <Tick
            key={s.value}
            label={s.name}
            on={chosen.includes(s.value)}
            onChange={(on) => setChosen(on ? [...chosen, s.value] : chosen.filter((c) => c !== s.value))}
          />
        ))}
      </div>
      {refusal?.field("scopes") && <Warning>{refusal.field("scopes")}</Warning>}
      {make.data?.token && (
        <div role="status" className="space-y-1">
          <p className="text-sm">Copy it now, it is shown only once:</p>
          <Copied label="Token" text={make.data.token} />
        </div>
      )}
    </form>
  );
}

type RowProps = { site: string; token: Schemas["Token"]; onEnded: () => void };

function TokenRow({ site, token, onEnded }: RowProps) {
  const say = useSay();
  const end = useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/v1/sites/{site}/tokens/{id}", { params: { path: { site, id: token.id } } })),
    onSuccess: () => say.done(`Token “${token.name}” revoked.`),
    onError: say.trouble,
    onSettled: onEnded,
  });
  return (
    <li className="flex min-h-11 items-center gap-3 py-1">
      <div className="min-w-0 flex-1">
        <p className="truncate">
          {token.name} <span className="text-soft">…{token.hint}</span>
        </p>
        <p className="text-soft">
          {token.who} · may {token.scopes.join(", ")} ·{" "}
          {token.over ? <span className="text-madder">expired</span> : `until ${shownDay(token.expires)}`} ·{" "}
          {token.used ? `used ${shownDay(token.used)}` : "never used"}
        </p>
      </div>
      <Button
        look="quiet"
        aria-label={`Revoke the token ${token.name}`}
        disabled={end.isPending}
        onClick={() => end.mutate()}
      >
        Revoke
      </Button>
    </li>
  );
}
