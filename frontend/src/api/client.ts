import createClient from "openapi-fetch";
import { say } from "../texts/say";
import { AT_PRESS, forgetAtPress, isAtPress } from "./offline";
import type { paths } from "./schema";

export const api = createClient<paths>({ baseUrl: "" });
api.use({
  onRequest({ request }) {
    if (request.method === "GET" && isAtPress(location.pathname)) request.headers.set(AT_PRESS, "1");
  },
  onResponse({ response }) {
    const told = /\bturn;dur=(\d+)/.exec(response.headers.get("server-timing") ?? "");
    if (told) waitedMs = Number(told[1]);
  },
});

let waitedMs = 0;
const TIMES = 2;
const LONGEST_MS = 500;
/** Twice as long as the last preview waited for its turn: the others go first, and what is asked after it is what the hand wants by then. */
export const othersFirst = () => new Promise((go) => setTimeout(go, Math.min(TIMES * waitedMs, LONGEST_MS)));

/** Told when an answer says that nobody is signed in: the gate asks who is here. */
let onSignedOut: () => void = () => {};
export function whenSignedOut(tell: () => void) {
  onSignedOut = tell;
}

/** Every refusal in its three parts; `away` when nobody could answer, so that what was done is kept here. */
export class ProblemError extends Error {
  constructor(
    readonly code: string,
    readonly happened: string,
    readonly kept: string,
    readonly thenDo: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(happened);
  }
  /** The same, with the job that it is about. */
  about(job: string) {
    return new ProblemError(this.code, this.happened, this.kept, this.thenDo, { ...this.more, job });
  }
  /** The server failed at it: nothing is said of what was sent, and it is sent again. */
  get isFault() {
    return this.code === "unexpected" || this.code === "not-named";
  }
  get isAway() {
    return this.code === "away" || this.code === "database-away" || this.code === "not-signed-in";
  }
}

const AWAY = new ProblemError(
  "away",
  say("The shop's computer does not answer."),
  say("What you did is kept in this browser."),
  say("Go on; it is sent as soon as it answers again."),
);

type Answer = { data?: unknown; error?: unknown; response: Response };

/** The data of an answer, or a ProblemError. T is named by the caller: the client turns tuples into arrays. */
export async function told<T>(answer: Promise<Answer>): Promise<T> {
  let got: Answer;
  try {
    got = await answer;
  } catch {
    throw AWAY;
  }
  if (got.response.ok && got.data !== undefined) return got.data as T;
  if (got.response.status === 401 && problemOf(got.error).code === "not-signed-in") {
    void forgetAtPress();
    onSignedOut();
  }
  throw problemOf(got.error);
}

export function problemOf(error: unknown): ProblemError {
  const parts = (error ?? {}) as Record<string, unknown>;
  if (typeof parts.happened !== "string") return AWAY;
  return new ProblemError(String(parts.code), parts.happened, String(parts.kept), String(parts.to_do), parts);
}

/** A file and what goes with it, sent as a form. */
export async function sent<T>(path: string, file: File, fields: Record<string, string> = {}): Promise<T> {
  const form = new FormData();
  form.append("file", file);
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  let answer: Response;
  try {
    answer = await fetch(path, { method: "POST", body: form });
  } catch {
    throw AWAY;
  }
  const body: unknown = await answer.json().catch(() => null);
  if (answer.ok) return body as T;
  throw problemOf(body);
}

export function newId(): string {
  // randomUUID needs a secure page; a shop's plain network address is none.
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}
