/** What is asked of the planner: answered at once, or later by the worker of a full shop. */
import { onDestroy } from "svelte";
import { api, inWords, type Schemas } from "../api/client";
import { say } from "../words";

type Asked = Schemas["Asked"];
type Reply<T> = { data?: T | Asked; error?: unknown; response: Response };

const LOOK_MS = 500;
const MOST_S = 180;

/** Good for as long as the component that asks is on screen; called while it is made. */
export function whileHere(): AbortSignal {
  const gone = new AbortController();
  onDestroy(() => gone.abort());
  return gone.signal;
}

/** The answer, however long it takes; `tell` hears each second how long it has been.
 *
 * Nobody looks for an answer when the page that asked is gone: then it never comes, and what was only a
 * question is dropped by the planner too.
 */
export async function plannersAnswer<T extends object>(
  here: AbortSignal,
  asked: Promise<Reply<T>>,
  pick: (told: Asked) => T | null | undefined,
  tell: (seconds: number) => void = () => undefined,
): Promise<{ data?: T; error?: unknown; response: Response }> {
  const { data, error, response } = await asked;
  if (!data || !("ask_id" in data)) return { data: data as T | undefined, error, response };
  const began = Date.now();
  for (;;) {
    const seconds = Math.round((Date.now() - began) / 1000);
    tell(seconds);
    await new Promise((later) => setTimeout(later, LOOK_MS));
    if (here.aborted) {
      void api.DELETE("/api/plan-asks/{ask_id}", { params: { path: { ask_id: data.ask_id } } });
      return new Promise(() => undefined);
    }
    const look = await api.GET("/api/plan-asks/{ask_id}", { params: { path: { ask_id: data.ask_id } } });
    const told = look.data;
    if (told?.state === "answered") return { data: pick(told) ?? undefined, response: look.response };
    if (told?.state === "refused") return { error: { detail: told.refusal }, response: look.response };
    // Without network one goes on looking: the answer is kept for a day.
    if (!told && look.response.status < 500) return { error: look.error, response: look.response };
    if (seconds > MOST_S)
      return { error: { detail: told ? say.apply.thePlannerDoesNotAnswer : inWords(look.error) }, response: look.response };
  }
}
