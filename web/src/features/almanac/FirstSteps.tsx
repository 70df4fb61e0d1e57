import { Check } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Almanac } from "../plan/almanac";

/** What leads to the first plan of a new blog, each step ticked once it is done. */
export function FirstSteps({ site, plan }: { site: string; plan: Almanac }) {
  const link = "underline underline-offset-2";
  const written = plan.drafts.length + plan.shelf.length > 0;
  const rhythm = plan.days.some((d) => d.openings.length > 0);
  return (
    <section aria-labelledby="first-steps" className="rounded-md border border-strong bg-sheet px-4 py-3">
      <h2 id="first-steps" className="mb-2 font-title text-xl">
        Your first plan
      </h2>
      <ol className="space-y-3">
        <Step done={written} name="Write something">
          Begin with <b className="font-semibold text-ink">New draft</b>, above. You can paste text from
          anywhere.
        </Step>
        <Step done={rhythm} name="Set the rhythm">
          The rhythm says when posts may come out: these are the shaded stretches on the tape.{" "}
          <Link to={`/${site}/rhythm`} className={link}>
            {rhythm ? "See it" : "Set it"}
          </Link>
        </Step>
        <Step done={plan.shelf.length > 0} name="Put it on the shelf">
          In the editor, choose <b className="font-semibold text-ink">Put on the shelf</b>. The draft gets the
          next free time, and you see it here before anything is scheduled.
        </Step>
      </ol>
    </section>
  );
}

function Step({ done, name, children }: { done: boolean; name: string; children: ReactNode }) {
  return (
    <li className="flex gap-2.5">
      <span
        aria-hidden
        className={`mt-0.5 inline-flex size-4 shrink-0 items-center justify-center rounded-sm border ${done ? "border-ink bg-ink text-sheet" : "border-strong"}`}
      >
        {done && <Check size={12} />}
      </span>
      <div>
        <p className={`text-base font-semibold ${done ? "text-soft" : ""}`}>
          {name}
          <span className="sr-only">{done ? " (done)" : " (to do)"}</span>
        </p>
        {!done && <p className="text-sm text-soft">{children}</p>}
      </div>
    </li>
  );
}
