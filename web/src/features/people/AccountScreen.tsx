import { useQueryClient } from "@tanstack/react-query";
import { useMutation } from "../../api/mutation";
import { useState, type FormEvent } from "react";
import { useParams } from "react-router";
import { answer, api, Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Part } from "../../ui/Part";
import { useSay } from "../../ui/toast";
import { Warning } from "../../ui/Trouble";
import { useSession, type Me } from "../session/session";
import { PreferencesForm } from "./PreferencesForm";
import { Calendars } from "./Calendars";
import { SignIns } from "./SignIns";
import { Mails } from "./Mails";
import { Portrait } from "./Portrait";
import { Tokens } from "./Tokens";

/** What is one's own: name, password, where one is signed in, tokens. */
export default function AccountScreen() {
  const { site = "" } = useParams();
  const me = useSession().data;
  if (!me) return null;
  return (
    <main className="mx-auto w-full max-w-4xl px-5 pt-4 pb-10">
      <h1 className="mb-4 font-title text-2xl">Your account</h1>
      <Part title="Name" hint="Readers see both with your posts.">
        <NameForm key={`${me.name}\n${me.about}`} me={me} />
        <div className="mt-4">
          <Portrait site={site} />
        </div>
      </Part>
      <Part title="Display" hint="Applies in every browser you sign in with.">
        <PreferencesForm preferences={me.preferences} />
      </Part>
      <Part title="Password" hint="Changing it signs you out everywhere else.">
        <PasswordForm />
      </Part>
      <Part title="Signed in" hint="Sign out devices you don’t recognise.">
        <SignIns />
      </Part>
      <Part title="Mails" hint="What happens on this blog, summed up. Each mail has a link that ends them.">
        <Mails site={site} />
      </Part>
      <Part title="Calendars" hint="Private links that show this blog’s plan in your calendar app.">
        <Calendars site={site} />
      </Part>
      <Part
        title="Tokens"
        hint="For scripts that work with this blog. A token can do no more than you can, is shown once and expires by itself."
      >
        <Tokens site={site} />
      </Part>
    </main>
  );
}

function NameForm({ me }: { me: Me }) {
  const [name, setName] = useState(me.name);
  const [about, setAbout] = useState(me.about);
  const queries = useQueryClient();
  const say = useSay();
  const save = useMutation({
    mutationFn: () => answer(api.PUT("/api/v1/account", { body: { name, about } })),
    onSuccess: (saved) => {
      queries.setQueryData(["session"], saved);
      say.done("Saved.");
    },
  });
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  return (
    <form
      className="max-w-md space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate();
      }}
    >
      <TextField
        label="Your name"
        value={name}
        hint={`You sign in as ${me.email}.`}
        error={refusal?.field("name") ?? (refusal?.problem.errors ? undefined : save.error?.message)}
        onChange={(e) => setName(e.target.value)}
      />
      <TextField
        label="About you"
        placeholder="none"
        dir="auto"
        hint="A line that readers see under your posts, and on the page of your posts."
        value={about}
        error={refusal?.field("about")}
        onChange={(e) => setAbout(e.target.value)}
      />
      <Button type="submit" disabled={(name === me.name && about === me.about) || save.isPending}>
        Save
      </Button>
    </form>
  );
}

function PasswordForm() {
  const [old, setOld] = useState("");
  const [next, setNext] = useState("");
  const queries = useQueryClient();
  const say = useSay();
  const change = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/account/password", { body: { old, next } })),
    onSuccess: () => {
      setOld("");
      setNext("");
      say.done("Password changed.");
      void queries.invalidateQueries({ queryKey: ["sign-ins"] });
    },
  });
  const refusal = change.error instanceof Refusal ? change.error : undefined;
  function submit(event: FormEvent) {
    event.preventDefault();
    change.mutate();
  }
  return (
    <form onSubmit={submit} className="space-y-2">
      {change.error && !refusal?.problem.errors && <Warning>{change.error.message}</Warning>}
      <div className="flex flex-wrap items-start gap-3">
        <div className="w-56">
          <TextField
            label="Current password"
            type="password"
            autoComplete="current-password"
            required
            value={old}
            error={refusal?.field("old")}
            onChange={(e) => setOld(e.target.value)}
          />
        </div>
        <div className="w-56">
          <TextField
            label="New password"
            type="password"
            autoComplete="new-password"
            required
            value={next}
            error={refusal?.field("next")}
            hint="12 characters or more."
            onChange={(e) => setNext(e.target.value)}
          />
        </div>
        <Button type="submit" className="mt-5.5" disabled={!old || !next || change.isPending}>
          Change password
        </Button>
      </div>
    </form>
  );
}
