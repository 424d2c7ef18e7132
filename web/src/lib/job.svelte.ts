/** The job on screen: polled with its tag, so that nothing travels while nothing happened. */
import { api, inWords, type JobPage } from "../api/client";
import { session } from "./session.svelte";

const POLL_MS = 2000;

export class JobPoll {
  page = $state.raw<JobPage | null>(null);
  problem = $state("");
  gone = $state(false);
  #tag = "";
  #timer: ReturnType<typeof setInterval>;

  constructor(readonly id: string) {
    this.#timer = setInterval(() => void this.ask(), POLL_MS);
    void this.ask();
  }

  stop(): void {
    clearInterval(this.#timer);
  }

  async ask(): Promise<void> {
    const { data, error, response } = await api.GET("/api/jobs/{job_id}", {
      params: { path: { job_id: this.id } },
      headers: this.#tag ? { "If-None-Match": this.#tag } : {},
    });
    if (response.status === 304 || (this.page && response.headers.has("Coat-Kept"))) return;
    if (response.status === 401) return session.lost();
    if (response.status === 404) this.gone = true;
    if (!data) {
      this.problem = inWords(error);
      return;
    }
    // An answer asked for before the last tap may come in after it: the log only grows.
    if (this.page && data.seq < this.page.seq) return;
    this.#tag = response.headers.get("ETag") ?? "";
    this.page = data;
    this.problem = "";
  }
}
