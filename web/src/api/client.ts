import createClient from "openapi-fetch";
import type { components, paths } from "./schema";
import { setSignedOut } from "./signedOut";

export type Schemas = components["schemas"];

/** What a refusal says; where something was changed meanwhile (409), also what there is now. */
export type Problem = Schemas["Problem"] &
  Partial<
    Pick<Schemas["StalePost"], "present"> &
      Pick<Schemas["StalePlacement"], "placement"> &
      Pick<Schemas["StaleClosing"], "closing"> &
      Pick<Schemas["StaleReflow"], "reflow"> &
      Pick<Schemas["StaleCatch"], "catch">
  >;

export const api = createClient<paths>({ baseUrl: "/" });

/** The server's no: it got the request and says what is wrong with it (RFC 9457). */
export class Refusal extends Error {
  readonly status: number;
  readonly problem: Problem;

  constructor(problem: Problem) {
    super(problem.detail);
    this.status = problem.status;
    this.problem = problem;
  }

  /** The message for a field of the request body, such as "title" or "openings[2].to". */
  field(path: string): string | undefined {
    return this.problem.errors?.find((e) => e.location === `body.${path}`)?.message;
  }
}

/** Did not get through: no connection, or no answer. */
export class Unreachable extends Error {
  constructor() {
    super("The server can’t be reached. Nothing is lost: try again in a moment.");
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response };

/** Waits for an answer and returns its data, or throws a Refusal or Unreachable. */
export async function answer<T>(request: Promise<Answer<T>>): Promise<T> {
  let got: Answer<T>;
  try {
    got = await request;
  } catch {
    throw new Unreachable();
  }
  if (got.response.ok) return got.data as T;
  if (got.response.status === 401) setSignedOut(true);
  throw new Refusal(asProblem(got));
}

function asProblem({ error, response }: Answer<unknown>): Problem {
  if (error && typeof error === "object" && "detail" in error) return error as Problem;
  // What stands before the server says so while it is being replaced.
  const away = [502, 503, 504].includes(response.status);
  return {
    title: response.statusText,
    status: response.status,
    detail: away
      ? "The server isn’t answering now. Nothing is lost: try again in a moment."
      : `The server answered ${response.status}. Please try again.`,
  };
}
