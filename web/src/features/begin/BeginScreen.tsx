import { useMutation } from "../../api/mutation";
import { useState, type FormEvent, type ReactNode } from "react";
import { answer, api, Refusal } from "../../api/client";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { Warning } from "../../ui/Trouble";
import { showWrong } from "../../ui/useFormOf";
import { TapeEdge } from "../session/Front";
import { useNewBlog } from "./begin";
import { BlogFields } from "./BlogFields";
import { StartChoice } from "./StartChoice";

const steps = ["Setup code", "You", "Your blog", "Its rhythm"] as const;

const leads: ReactNode[] = [
  <>
    The setup code is in the program’s log. To print a new one, run <code>dapper setup-code</code>.
  </>,
  "You will be the owner. You can invite others later.",
  "You can change all of this later.",
  "When posts may come out. Each draft you put on the shelf gets one of these times.",
];

/** What is missing of who sets the program up, before the server is asked. */
function missing(owner: Owner): Record<string, string> {
  const found: Record<string, string> = {};
  if (owner.name.trim() === "") found.name = "Enter the name that readers see under your posts.";
  if (!owner.email.includes("@")) found.email = "Enter your e-mail address. You sign in with it.";
  if (owner.password.length < 12) found.password = "Choose a password of 12 characters or more.";
  return found;
}

type Owner = { name: string; email: string; password: string };

/** Which step a field of the server's refusal is in. */
function stepOf(location: string): number {
  if (location.startsWith("body.code")) return 0;
  if (location.startsWith("body.owner")) return 1;
  return location === "body.blog.start" ? 3 : 2;
}

/** What every address shows until the program has its first owner and its first blog. */
export default function BeginScreen() {
  const [step, setStep] = useState(0);
  const [code, setCode] = useState(() => window.location.hash.slice(1));
  const [owner, setOwner] = useState<Owner>({ name: "", email: "", password: "" });
  const [lacks, setLacks] = useState<Record<string, string>>({});
  const form = useNewBlog();
  const { blog } = form;

  const check = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/setup/code", { body: { code } })),
    onSuccess: () => setStep(1),
    onError: () => showWrong(),
  });
  const begin = useMutation({
    mutationFn: () => answer(api.POST("/api/v1/setup", { body: { code, owner, blog } })),
    // The server has another page for this address from now on.
    onSuccess: (me) => window.location.assign(`/${me.sites[0]?.slug ?? ""}`),
    onError: (error) => {
      const wrong = error instanceof Refusal ? error.problem.errors?.[0]?.location : undefined;
      if (wrong) {
        setStep(stepOf(wrong));
        showWrong();
      }
    },
  });
  const error = step === 0 ? (check.error ?? begin.error) : begin.error;
  const refusal = error instanceof Refusal ? error : undefined;

  function next(event: FormEvent) {
    event.preventDefault();
    if (step === 0) return check.mutate();
    if (step === 1) {
      const found = missing(owner);
      setLacks(found);
      if (Object.keys(found).length > 0) return showWrong();
    }
    if (step === 2 && blog.title.trim() === "") {
      setLacks({ title: "Give the blog a title." });
      return showWrong();
    }
    setLacks({});
    if (step < steps.length - 1) setStep(step + 1);
    else begin.mutate();
  }

  function change(part: Partial<Owner>) {
    setOwner({ ...owner, ...part });
    setLacks({});
  }

  return (
    <main className="mx-auto w-full max-w-2xl px-4 pt-[10vh] pb-10">
      <h1 className="font-title text-3xl">Dapper Almanac</h1>
      <TapeEdge />
      <Steps at={step} />
      <form onSubmit={next} noValidate>
        <p className="mb-4 text-soft">{leads[step]}</p>
        {error && !refusal?.problem.errors && <Warning>{error.message}</Warning>}
        <div className={step === 3 ? "" : "max-w-sm space-y-4"}>
          {step === 0 && (
            <TextField
              label="Setup code"
              required
              autoFocus
              autoComplete="off"
              autoCapitalize="characters"
              spellCheck={false}
              placeholder="XXXX-XXXX-XXXX-XXXX"
              value={code}
              error={refusal?.field("code")}
              onChange={(e) => setCode(e.target.value)}
            />
          )}
          {step === 1 && (
            <>
              <TextField
                label="Your name"
                hint="As readers see it under your posts."
                autoComplete="name"
                required
                autoFocus
                value={owner.name}
                error={lacks.name ?? refusal?.field("owner.name")}
                onChange={(e) => change({ name: e.target.value })}
              />
              <TextField
                label="E-mail"
                type="email"
                autoComplete="username"
                required
                value={owner.email}
                error={lacks.email ?? refusal?.field("owner.email")}
                onChange={(e) => change({ email: e.target.value })}
              />
              <TextField
                label="Password"
                type="password"
                autoComplete="new-password"
                hint="12 characters or more; four or five words make a good one."
                required
                value={owner.password}
                error={lacks.password ?? refusal?.field("owner.password")}
                onChange={(e) => change({ password: e.target.value })}
              />
            </>
          )}
          {step === 2 && (
            <BlogFields
              form={form}
              error={(field) =>
                (field === "title" && blog.title.trim() === "" ? lacks.title : undefined) ??
                refusal?.field(`blog.${field}`)
              }
            />
          )}
          {step === 3 && <StartChoice form={form} />}
        </div>
        <div className="mt-6 flex gap-2">
          {step > 0 && <Button onClick={() => setStep(step - 1)}>Back</Button>}
          <Button type="submit" look="main" disabled={check.isPending || begin.isPending}>
            {step < steps.length - 1 ? "Continue" : "Create the blog"}
          </Button>
        </div>
      </form>
    </main>
  );
}

/** The steps as marks along the tape. */
function Steps({ at }: { at: number }) {
  return (
    <ol aria-label="Steps" className="mb-6 grid grid-cols-4 gap-2">
      {steps.map((name, i) => (
        <li
          key={name}
          aria-current={i === at ? "step" : undefined}
          className={`border-l pl-2 text-sm ${i === at ? "border-ink font-semibold" : "border-strong text-soft"}`}
        >
          <span className="block font-title text-xl">{i + 1}</span>
          {name}
          {i < at && <span className="sr-only"> (done)</span>}
        </li>
      ))}
    </ol>
  );
}
