import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type FormEvent } from "react";
import { createPortal } from "react-dom";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { TapeEdge } from "./Front";
import { useSignIn, type Me } from "./session";
import { PasswordAndGo } from "./SignIn";

/**
 * Asks to sign in again over the screen that one was at, which stays as it is below: what was typed there is not lost.
 * Nothing of it is seen or reached meanwhile.
 */
export function SignInAgain({ me }: { me: Me }) {
  const queries = useQueryClient();
  const signIn = useSignIn();
  const [password, setPassword] = useState("");
  const place = useRef<HTMLDialogElement>(null);
  useEffect(() => {
    // The browser's own dialog lies over everything, sheets of the screen below too, and keeps them from the keyboard.
    const dialog = place.current;
    if (!dialog) return;
    const show = () => {
      if (!dialog.open) dialog.showModal();
      dialog.querySelector<HTMLInputElement>("[type=password]")?.focus();
    };
    show();
    dialog.addEventListener("close", show); // a second Escape closes it whatever the page says
    return () => dialog.removeEventListener("close", show);
  }, []);

  function submit(event: FormEvent) {
    event.preventDefault();
    signIn.mutate(
      { email: me.email, password },
      {
        // What could not be brought up to date meanwhile, or never came.
        onSuccess: () =>
          void queries.refetchQueries({
            type: "active",
            predicate: ({ state }) => state.isInvalidated || state.status === "error",
          }),
      },
    );
  }

  return createPortal(
    <dialog
      ref={place}
      aria-labelledby="signed-out"
      onCancel={(e) => e.preventDefault()}
      className="m-auto w-full max-w-sm bg-ground p-4 text-ink backdrop:bg-ground"
    >
      <form onSubmit={submit}>
        <h1 id="signed-out" className="font-title text-3xl">
          You’re signed out
        </h1>
        <TapeEdge />
        <p className="mb-5 text-soft">
          Sign in again to go on where you were. What you typed there is still there.
        </p>
        <div className="space-y-4">
          {signIn.error && <Warning>{signIn.error.message}</Warning>}
          <TextField label="E-mail" type="email" autoComplete="username" readOnly value={me.email} />
          <PasswordAndGo password={password} onPassword={setPassword} busy={signIn.isPending} />
          <p className="text-sm">
            {/* Loads the program anew: nothing of one person's may stay for the next. */}
            <a href="/sign-in" className="underline underline-offset-2">
              Sign in as somebody else
            </a>
          </p>
        </div>
      </form>
    </dialog>,
    document.body,
  );
}
