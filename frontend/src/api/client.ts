import createClient from "openapi-fetch";
import type { paths } from "./schema";

const PERSON = "offsetter.person";

export function person(): string {
  return localStorage.getItem(PERSON) ?? "Ada";
}

export function setPerson(name: string) {
  localStorage.setItem(PERSON, name);
}

export const api = createClient<paths>({ baseUrl: "" });
api.use({
  onRequest({ request }) {
    // Header values are bytes; a name may hold any letter.
    request.headers.set("x-person", encodeURIComponent(person()));
    return request;
  },
});

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
  get isAway() {
    return this.code === "away" || this.code === "database-away";
  }
}

const AWAY = new ProblemError(
  "away",
  "The shop's computer does not answer.",
  "What you did is kept in this browser.",
  "Go on; it is sent as soon as it answers again.",
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
  throw problemOf(got.error);
}

export function problemOf(error: unknown): ProblemError {
  const parts = (error ?? {}) as Record<string, unknown>;
  if (typeof parts.happened !== "string") return AWAY;
  return new ProblemError(String(parts.code), parts.happened, String(parts.kept), String(parts.to_do), parts);
}

export function newId(): string {
  // randomUUID needs a secure page; a shop's plain network address is none.
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}
