import { useState, type FormEvent } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { Front } from "./Front";
import { useSignIn } from "./session";

type PasswordProps = { password: string; onPassword: (password: string) => void; busy: boolean };

/** The password, and the button that signs in with it. */
export function PasswordAndGo({ password, onPassword, busy }: PasswordProps) {
  return (
    <>
      <TextField
        label="Password"
        type="password"
        autoComplete="current-password"
        required
        value={password}
        onChange={(e) => onPassword(e.target.value)}
      />
      <Button type="submit" look="main" disabled={busy} className="w-full">
        Sign in
      </Button>
    </>
  );
}

export function SignIn() {
  const signIn = useSignIn();
  const navigate = useNavigate();
  const state = useLocation().state as { back?: string; said?: string } | null;
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");

  function submit(event: FormEvent) {
    event.preventDefault();
    signIn.mutate(
      { email: email.trim(), password },
      { onSuccess: () => void navigate(state?.back ?? "/", { replace: true }) },
    );
  }

  return (
    <Front onSubmit={submit} lead={state?.said ?? "Your plan of what comes out, and when."}>
      {signIn.error && <Warning>{signIn.error.message}</Warning>}
      <TextField
        label="E-mail"
        type="email"
        autoComplete="username"
        required
        autoFocus
        value={email}
        onChange={(e) => setEmail(e.target.value)}
      />
      <PasswordAndGo password={password} onPassword={setPassword} busy={signIn.isPending} />
      <p className="text-sm">
        <Link to="/forgotten" className="underline underline-offset-2">
          Forgot your password?
        </Link>
      </p>
    </Front>
  );
}
