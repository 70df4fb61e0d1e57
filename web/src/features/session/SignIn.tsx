import { useState, type FormEvent } from "react";
import { useLocation, useNavigate } from "react-router";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { useSignIn } from "./session";

export function SignIn() {
  const signIn = useSignIn();
  const navigate = useNavigate();
  const back = (useLocation().state as { back?: string } | null)?.back ?? "/";
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");

  function submit(event: FormEvent) {
    event.preventDefault();
    signIn.mutate(
      { email: email.trim(), password },
      { onSuccess: () => void navigate(back, { replace: true }) },
    );
  }

  return (
    <main className="grid min-h-screen grid-rows-[1fr_auto_2fr] justify-items-center px-4">
      <form onSubmit={submit} className="row-start-2 w-full max-w-sm">
        <h1 className="font-title text-3xl">Dapper Almanac</h1>
        <TapeEdge />
        <p className="mb-5 text-soft">Your plan of what comes out, and when.</p>
        <div className="space-y-4">
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
        </div>
      </form>
    </main>
  );
}

/** A length of measuring tape, as a rule under the name. */
function TapeEdge() {
  const ticks = Array.from({ length: 49 }, (_, i) => i);
  return (
    <svg viewBox="0 0 384 14" className="my-3 w-full text-ink" aria-hidden>
      <rect width="384" height="14" className="fill-tape" />
      {ticks.map((i) => (
        <line
          key={i}
          x1={i * 8}
          x2={i * 8}
          y1="14"
          y2={i % 6 === 0 ? 4 : 9}
          stroke="var(--tape-ink)"
          strokeWidth="1"
        />
      ))}
    </svg>
  );
}
