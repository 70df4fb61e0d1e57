import { useQuery } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState, type FormEvent } from "react";
import { useLocation, useNavigate } from "react-router";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { Waiting } from "../../ui/Waiting";
import { Front } from "./Front";
import { useTakeSession } from "./session";
import { BackToSignIn } from "./ResetScreens";

/** Where the link of an invitation leads. */
export function JoinScreen() {
  const secret = useLocation().hash.slice(1);
  const invited = useQuery({
    queryKey: ["invitation", secret],
    queryFn: () => answer(api.POST("/api/v1/invitations/look", { body: { secret } })),
    staleTime: Infinity,
  });
  if (invited.isPending) return <Waiting what="the invitation" />;
  if (invited.error)
    return (
      <Front lead="An invitation">
        <Warning>{invited.error.message}</Warning>
        <BackToSignIn />
      </Front>
    );
  return <JoinForm secret={secret} invited={invited.data} />;
}

function JoinForm({ secret, invited }: { secret: string; invited: Schemas["Invited"] }) {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const navigate = useNavigate();
  const take = useTakeSession();
  const accept = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/invitations/accept", { body: { secret, name, password } })),
    onSuccess: (me) => {
      take(me);
      void navigate("/", { replace: true });
    },
  });
  const refusal = accept.error instanceof Refusal ? accept.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    accept.mutate();
  }
  return (
    <Front
      onSubmit={submit}
      lead={
        <>
          {invited.by} invites you to <b className="text-ink">{invited.site}</b> as {invited.role}.
        </>
      }
    >
      {accept.error && !refusal?.problem.errors && <Warning>{accept.error.message}</Warning>}
      <p className="text-sm text-soft">
        {invited.known ? "Your account: " : "Your account will be "}
        <span className="text-ink">{invited.email}</span>
      </p>
      {!invited.known && (
        <TextField
          label="Your name"
          hint="As readers see it under your posts."
          autoComplete="name"
          required
          autoFocus
          error={refusal?.field("name")}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      )}
      <TextField
        label={invited.known ? "Its password" : "A password"}
        type="password"
        autoComplete={invited.known ? "current-password" : "new-password"}
        hint={invited.known ? undefined : "12 characters or more; four or five words make a good one."}
        required
        error={refusal?.field("password")}
        value={password}
        onChange={(e) => setPassword(e.target.value)}
      />
      <Button type="submit" look="main" disabled={accept.isPending} className="w-full">
        Join
      </Button>
    </Front>
  );
}
