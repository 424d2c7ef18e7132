/** The one client of the API. Types come from docs/openapi.json; nothing is typed twice. */
import createClient from "openapi-fetch";
import { serverClock } from "../lib/clock.svelte";
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

/** Never throws: a question nobody answers comes back as a problem like any other. */
export const api = createClient<paths>({ baseUrl: "" });
api.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", cookie("csrftoken"));
    return request;
  },
  async onResponse({ response }) {
    serverClock.hear(response.headers.get("Coat-Now"));
    const units = reader.units();
    if ((language() === "en" && units === "metric") || !response.headers.get("Content-Type")?.includes("json")) return undefined;
    await openBook(language());
    const told = worded(await response.clone().json(), (text) => served(text, language(), units));
    return new Response(JSON.stringify(told), { status: response.status, statusText: response.statusText, headers: response.headers });
  },
  onError() {
    const problem: Problem = { title: "No answer", status: NO_ANSWER, detail: say.client.noConnectionToTheServer, errors: [] };
    return Response.json(problem, { status: NO_ANSWER });
  },
});

/** What went wrong, in words; an answer that is no problem of ours comes from a server in pieces. */
export function inWords(error: unknown): string {
  if (error && typeof error === "object" && "detail" in error) return String((error as Problem).detail);
  return say.client.theServerFailedOnThis;
}
