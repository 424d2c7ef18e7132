/** What a booth or a slipway will want, fetched while there is reception: the jobs in progress with all their pages. */
import { api, type JobPage, type Schemas } from "../api/client";
import { kept } from "./kept";
import { network } from "./network.svelte";
import { session } from "./session.svelte";
import { version } from "./version.svelte";
import { watch } from "./watch.svelte";

const FIRST_MS = 4000; // what is on screen is asked for first
const EVERY_MS = 60_000;
/** So many jobs in progress, the most pressing first. */
const MOST_JOBS = 25;
/** Asked anew so long after the last time, though nothing happened: plans and air move on their own. */
const STALE_S = 900;

class Stow {
  /** Newest entry of a job when its pages were fetched, and when. */
  #had = new Map<string, { seq: number; at_ms: number }>();
  #busy = false;
  /** How many jobs in progress this device can open without network. */
  jobs = $state(0);

  start(): void {
    setTimeout(() => void this.fill(), FIRST_MS);
    setInterval(() => void this.fill(), EVERY_MS);
  }

  async fill(): Promise<void> {
    if (this.#busy || !session.who) return;
    this.#busy = true;
    try {
      const { data } = await api.GET("/api/now", { params: { query: { due_jobs: 40 } } });
      if (data) watch.lines = data.lines;
      // Without a worker of its own the page does not open without network: what for?
      if (network.down || document.hidden || !version.kept) return;
      if (!this.#had.size) await this.#shop();
      for (const line of (data?.lines ?? []).slice(0, MOST_JOBS)) {
        if (network.down) return;
        const had = this.#had.get(line.head.id);
        const fresh = had && had.seq === line.state.through_seq && performance.now() - had.at_ms < STALE_S * 1000;
        if (fresh) continue;
        await this.#job(line);
        this.#had.set(line.head.id, { seq: line.state.through_seq, at_ms: performance.now() });
        this.jobs = this.#had.size;
      }
      await kept.prune();
    } catch {
      return; // no store in this window
    } finally {
      this.#busy = false;
    }
  }

  /** What every page stands on. */
  async #shop(): Promise<void> {
    await api.GET("/api/formulas");
    await api.GET("/api/survey");
    await api.GET("/api/shelf");
    await api.GET("/api/jobs", { params: { query: { q: "", page: 1, state: "all", order: "newest" } } });
  }

  async #job(line: Schemas["NowLine"]): Promise<void> {
    const path = { job_id: line.head.id };
    const { data } = await api.GET("/api/jobs/{job_id}", { params: { path } });
    if (!data) return;
    for (const sheet_id of new Set(data.facts.layers.map((l) => l.sheet_id)))
      await api.GET("/api/jobs/{job_id}/mix", { params: { path, query: { sheet_id } } });
    await api.GET("/api/jobs/{job_id}/quantity", { params: { path, query: { inspected: false, profile_um: 0 } } });
    await api.GET("/api/jobs/{job_id}/damage", { params: { path } });
    await api.GET("/api/jobs/{job_id}/dossier", { params: { path } });
    await api.GET("/api/jobs/{job_id}/draft", { params: { path, query: { repair: false } } });
    await this.#pictures(data);
  }

  /** The service worker keeps what passes through it. */
  async #pictures(page: JobPage): Promise<void> {
    if (!navigator.serviceWorker?.controller) return;
    const ids = page.log.flatMap((e) => [...((e.body.photo_ids as string[] | undefined) ?? []), e.body.photo_id as string | undefined]);
    for (const id of new Set(ids)) if (id) await fetch(`/api/photos/${id}`).catch(() => null);
  }
}

export const stow = new Stow();
