import { useState, type FormEvent } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { Front } from "./Front";
import { useSignIn } from "./session";

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
      <TextField
        label="Password"
        type="password"
        autoComplete="current-password"
        required
        value={password}
        onChange={(e) => setPassword(e.target.value)}
      />
      <Button type="submit" look="main" disabled={signIn.isPending} className="w-full">
        Sign in
      </Button>
      <p className="text-sm">
        <Link to="/forgotten" className="underline underline-offset-2">
          Forgot your password?
        </Link>
      </p>
    </Front>
  );
}
