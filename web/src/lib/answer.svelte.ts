/** What the server last answered to a question that is asked again and again: the newest question counts.
 *
 * `problem` is why the question has no answer.  What a tap or a form was refused for is another
 * thing and stays with its view: a late answer must not wipe it out.
 */
import { inWords } from "../api/client";

type Reply<T> = { data?: T; error?: unknown; response: Response };

export class Answer<T> {
  data = $state.raw<T | null>(null);
  problem = $state("");
  /** The newest question is still open. */
  waiting = $state(false);
  /** The status of the newest answer; 0: none yet. */
  status = 0;
  #asked = 0;

  /** Ask; answers what came, or null where it failed or a newer question has been asked since. */
  async ask(question: () => Promise<Reply<T>>): Promise<T | null> {
    const mine = ++this.#asked;
    this.waiting = true;
    const { data, error, response } = await question();
    if (mine !== this.#asked) return null;
    this.waiting = false;
    this.status = response.status;
    this.problem = data === undefined ? inWords(error) : "";
    if (data !== undefined) this.data = data;
    return data ?? null;
  }

  /** The question itself is no question: say why, and drop what is still under way. */
  refuse(why: string): void {
    this.#asked += 1;
    this.waiting = false;
    this.problem = why;
  }

  /** There is no question any more, and what was said to the last one is about something else. */
  forget(): void {
    this.refuse("");
    this.data = null;
  }
}
