/** Picking from the timeline the server sent: between polls the browser only looks up what holds now. */
import type { JobState, Span } from "../api/client";
import { stateWord } from "./states.ts";

type PartState = JobState["parts"][number];

export function currentView(
  part: PartState,
  now: number,
): { state: string | null; word: string; until: number | null; next: string | null } {
  const spans: Span[] = part.films.at(-1)?.spans ?? [];
  const at = spans.findIndex((s) => s.to_at === null || now < s.to_at);
  const span = spans[at] ?? spans.at(-1);
  if (!span) return { state: null, word: stateWord("bare"), until: null, next: null };
  return { state: span.state, word: stateWord(span.word), until: span.to_at ?? null, next: at < 0 ? null : (spans[at + 1]?.state ?? null) };
}
