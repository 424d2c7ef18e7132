/** Picking from the timeline the server sent: between polls the browser only looks up what holds now. */
import type { JobState, Span } from "../../api/client";

type PartState = JobState["parts"][number];

export function currentView(part: PartState, now: number): { state: string | null; word: string; until: number | null } {
  const spans: Span[] = part.films.at(-1)?.spans ?? [];
  const span = spans.find((s) => s.to_at === null || s.to_at === undefined || now < s.to_at) ?? spans.at(-1);
  if (!span) return { state: null, word: "nothing on it yet", until: null };
  return { state: span.state, word: span.word, until: span.to_at ?? null };
}
