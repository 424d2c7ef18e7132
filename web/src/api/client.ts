/** The one client of the API. Types come from docs/openapi.json; nothing is typed twice. */
import createClient from "openapi-fetch";
import { untrack } from "svelte";
import { serverClock } from "../lib/clock.svelte";
import { kept } from "../lib/kept";
import { network } from "../lib/network.svelte";
import type { components, paths } from "./schema";
import { language, say } from "../words";
import { openBook, served, worded } from "../words/served";
import type { System } from "../lib/units";

export type Schemas = components["schemas"];
export type JobPage = Schemas["JobPage"];
export type Facts = Schemas["Facts"];
export type JobState = Schemas["JobState"];
export type Film = Schemas["Film"];
export type Span = Schemas["Span"];
export type Plan = Schemas["Plan"];
export type PlanTask = Schemas["Task"];
export type NextTask = Schemas["NextTask"];
export type PartView = Schemas["PartView"];
export type Sheet = Schemas["Sheet"];
export type Why = Schemas["Why"];
export type Finding = Schemas["Finding"];
export type MixPage = Schemas["MixPage"];

export type Problem = {
  title: string;
  status: number;
  detail: string;
  errors: { field?: string; given?: unknown; expected?: string; what?: string; why?: string; instead?: string }[];
};

function cookie(name: string): string {
  const hit = document.cookie.split("; ").find((c) => c.startsWith(name + "="));
  return hit ? decodeURIComponent(hit.slice(name.length + 1)) : "";
}

/** Who reads: the session says so when it knows, for it stands on this client itself. */
export const reader: { units: () => System } = { units: () => "metric" };
/** A sentence out of a document that is kept as it is, for this reader. */
export const inReadersWords = (text: string): string => served(text, language(), reader.units());

/** The status our own client gives where no server answered. */
const NO_ANSWER = 504;
/** On what this client says itself. */
const OURS = "Coat-Unheard";
/** What a door in front of a server that is gone says. */
const NOBODY_HOME = [502, 503, 504];
/** A phone that has walked out of reach hears nothing, not even that: so long it waits for an answer it has an older one of. */
const PATIENCE_MS = 8000;

const where = (request: Request): string => request.url.slice(location.origin.length);

/** The answer in the reader's words and units. */
async function told(response: Response): Promise<Response | undefined> {
  const units = reader.units();
  if ((language() === "en" && units === "metric") || !response.headers.get("Content-Type")?.includes("json")) return undefined;
  const text = await response.clone().text();
  if (!text) return undefined; // nobody is signed in, for one: said without a word
  await openBook(language());
  const words = worded(JSON.parse(text), (told) => served(told, language(), units));
  return new Response(JSON.stringify(words), { status: response.status, statusText: response.statusText, headers: response.headers });
}

/** What the server said to the same question before, while it cannot be asked. */
async function before(request: Request): Promise<Response | null> {
  const said = request.method === "GET" ? await kept.recall(where(request)) : null;
  if (!said) return null;
  network.kept_at = Math.min(network.kept_at ?? said.at, said.at);
  return new Response(said.text, { headers: { "Content-Type": "application/json", "Coat-Kept": String(said.at) } });
}

/** Never throws: a question nobody answers comes back as it was answered before, or as a problem like any other. */
export const api = createClient<paths>({ baseUrl: "" });
api.use({
  async onRequest({ request }) {
    if (request.method !== "GET") {
      request.headers.set("X-CSRFToken", cookie("csrftoken"));
      return request;
    }
    // Not a thing the asker depends on: a page that asked would ask anew, and forget what is typed, as reception goes.
    if (untrack(() => network.down)) {
      const answer = await before(request);
      if (answer) return (await told(answer)) ?? answer;
    }
    if (!kept.worth(where(request)) || !(await kept.recall(where(request)))) return request;
    return new Request(request, { signal: AbortSignal.any([request.signal, AbortSignal.timeout(PATIENCE_MS)]) });
  },
  async onResponse({ request, response }) {
    if (response.headers.has(OURS)) return undefined;
    if (response.headers.has("Coat-Kept")) return told(response);
    if (NOBODY_HOME.includes(response.status)) {
      if (!response.headers.has("Coat-Now")) network.lost();
      const answer = await before(request);
      return answer ? ((await told(answer)) ?? answer) : undefined;
    }
    serverClock.hear(response.headers.get("Coat-Now"));
    network.heard(serverClock.now);
    if (request.method === "GET" && response.status === 200 && response.headers.get("Content-Type")?.includes("json"))
      void kept.keep(where(request), await response.clone().text(), serverClock.now);
    if (response.status === 304) void kept.still(where(request), serverClock.now);
    return told(response);
  },
  async onError({ request, error }) {
    const given_up = error instanceof DOMException && error.name === "AbortError";
    if (!given_up && request.method === "GET") network.lost();
    else if (!given_up) void network.look();
    const problem: Problem = { title: "No answer", status: NO_ANSWER, detail: say.client.noConnectionToTheServer, errors: [] };
    return (await before(request)) ?? Response.json(problem, { status: NO_ANSWER, headers: { [OURS]: "yes" } });
  },
});

/** What went wrong, in words; an answer that is no problem of ours comes from a server in pieces. */
export function inWords(error: unknown): string {
  if (error && typeof error === "object" && "detail" in error) return String((error as Problem).detail);
  return say.client.theServerFailedOnThis;
}
