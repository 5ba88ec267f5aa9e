import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./api/schema";
import { device, person } from "./ids";

export type Schemas = components["schemas"];
export type View = Schemas["View"];
export type State = Schemas["State"];
export type Line = Schemas["Line"];
export type Answered = Schemas["Answered"];
export type PlaceView = Schemas["PlaceView"];
export type Problem = Schemas["Problem"];

/** An answer that says no, in the server's words; or in those of what stands between, whose answers have no form that is known here. */
export class Refused extends Error {
  problem: Problem;
  constructor(answer: unknown) {
    const p: Partial<Problem> = typeof answer === "object" && answer !== null ? answer : {};
    const detail = p.detail || p.title || "What answered was not Tin Gate. Nothing of this was kept; try again.";
    super(detail);
    this.problem = { type: "", title: "", status: 0, ...p, detail, errors: p.errors ?? [] };
  }
}

export const who = () => ({ "X-Tingate-Person": person(), "X-Tingate-Device": device() });

const headers: Middleware = {
  onRequest({ request }) {
    for (const [k, v] of Object.entries(who())) if (!request.headers.has(k)) request.headers.set(k, v);
    return request;
  },
};

export const api = createClient<paths>({ baseUrl: "" });
api.use(headers);

/** Unwraps an answer: data, or a Refused. A lost connection stays a TypeError. */
export async function ok<T>(answer: Promise<{ data?: T; error?: unknown }>): Promise<T> {
  const { data, error } = await answer;
  if (error) throw new Refused(error);
  return data as T;
}

/** Sends bytes, which the typed client does not do. */
export async function sendBytes<T>(path: string, body: Blob, type: string): Promise<T> {
  const res = await fetch(path, { method: "POST", body, headers: { ...who(), "Content-Type": type } });
  const json = await res.json();
  if (!res.ok) throw new Refused(json);
  return json as T;
}

/** An act whose answer does not come: a network that swallowed it, before or after it was kept. */
export class Late extends Error {}

/** How long an act is waited for, ms: none takes as long, on a busy machine either. */
const longest = 60_000;

/** An answer, or Late after a while; the answer may still come, and is heard then by whoever waits for it itself. */
export async function inTime<T>(answer: Promise<T>, patience = longest): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, no) => {
    timer = setTimeout(() => no(new Late()), patience);
  });
  try {
    return await Promise.race([answer, late]);
  } finally {
    clearTimeout(timer);
  }
}

/** What to tell a person of a failure. */
export function say(e: unknown): string {
  if (e instanceof Late || (e instanceof DOMException && e.name === "TimeoutError"))
    return "No answer comes. It may have been kept all the same: look whether it is there before you do it again.";
  if (e instanceof Refused) {
    const fields = e.problem.errors.map((f) => `${f.field}: got ${f.got || "nothing"}, want ${f.want}`);
    return e.problem.errors.length && !e.problem.detail.includes("want") ? fields.join("; ") : e.problem.detail;
  }
  return "No answer from Tin Gate. Nothing of this was sent; try again when it runs.";
}
