import { useMutation } from "../../api/mutation";
import { useState, type FormEvent } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { answer, api, Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { Front } from "./Front";

/** Asks for a link by which to choose another password. */
export function ForgottenScreen() {
  const [email, setEmail] = useState("");
  const ask = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/password-resets", { body: { email: email.trim() } })),
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    ask.mutate();
  }
  return (
    <Front onSubmit={submit} lead="We will mail you a link to set a new password.">
      {ask.error && <Warning>{ask.error.message}</Warning>}
      {ask.data ? (
        <p role="status">{ask.data.said}</p>
      ) : (
        <>
          <TextField
            label="E-mail"
            type="email"
            autoComplete="username"
            required
            autoFocus
            value={email}
            onChange={(e) => setEmail(e.target.value)}
          />
          <Button type="submit" look="main" disabled={ask.isPending} className="w-full">
            Send the link
          </Button>
        </>
      )}
      <BackToSignIn />
    </Front>
  );
}

/** Where the link of the mail leads. */
export function ResetScreen() {
  const secret = useLocation().hash.slice(1);
  const navigate = useNavigate();
  const [password, setPassword] = useState("");
  const reset = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/password-resets/use", { body: { secret, password } })),
    onSuccess: () =>
      void navigate("/sign-in", {
        replace: true,
        state: { said: "Password changed. Sign in with the new one." },
      }),
  });
  const refusal = reset.error instanceof Refusal ? reset.error : undefined;
  const wrong = refusal?.field("password");
  function submit(event: FormEvent) {
    event.preventDefault();
    reset.mutate();
  }
  return (
    <Front onSubmit={submit} lead="Choose a new password. You will be signed out everywhere else.">
      {reset.error && !wrong && <Warning>{reset.error.message}</Warning>}
      <TextField
        label="New password"
        type="password"
        autoComplete="new-password"
        hint="12 characters or more; four or five words make a good one."
        error={wrong}
        required
        autoFocus
        value={password}
        onChange={(e) => setPassword(e.target.value)}
      />
      <Button type="submit" look="main" disabled={reset.isPending} className="w-full">
        Set password
      </Button>
      <BackToSignIn />
    </Front>
  );
}

export function BackToSignIn() {
  return (
    <p className="text-sm">
      <Link to="/sign-in" className="underline underline-offset-2">
        Back to the sign-in
      </Link>
    </p>
  );
}
