/** Every job in progress is watched, the one on screen by what is on screen: what is due rings, whatever page is open. */
import type { JobPage, Schemas } from "../api/client";
import { alarmsOf, type Alarm, type Watched } from "./alarms";
import { serverClock } from "./clock.svelte";
import { ring } from "./sound";

const AGAIN_S = 30;
const MOST_TIMES = 5;
/** How much later than due an alarm is that a sleeping page brings. */
const STALE_S = 900;

class Watch {
  /** The jobs in progress as last told. */
  lines = $state.raw<Schemas["NowLine"][]>([]);
  /** The job on screen, with what was tapped here. */
  page = $state.raw<JobPage | null>(null);
  /** What somebody has heard. */
  heard = $state.raw<string[]>(kept());
  /** How often each has rung, and when last [s]. */
  #rung = new Map<string, { times: number; at: number }>();

  readonly all = $derived.by((): Alarm[] => {
    const now = serverClock.now;
    const open = this.page;
    const jobs: Watched[] = this.lines
      .filter((l) => l.head.id !== open?.head.id)
      .map((l) => ({ head: l.head, facts: l.facts, state: l.state, next: l.state.next }));
    if (open)
      jobs.unshift({ head: open.head, facts: open.facts, state: open.state, next: open.view.next, air: open.air, ribbon: open.ribbon });
    return jobs.flatMap((job) => alarmsOf(job, now)).toSorted((a, b) => a.at - b.at);
  });
  /** What rings or stands now. */
  readonly on = $derived(this.all.filter((a) => a.from_at <= serverClock.now && !this.heard.includes(a.key)));

  /** Called as time goes by: rings what has come due, again what presses and nobody has heard. */
  sound(show: (alarm: Alarm) => void): void {
    const now = serverClock.now;
    for (const alarm of this.on) {
      const was = this.#rung.get(alarm.key);
      if (was && (!alarm.pressing || was.times >= MOST_TIMES || now - was.at < AGAIN_S)) continue;
      this.#rung.set(alarm.key, { times: (was?.times ?? 0) + 1, at: now });
      if (!alarm.pressing && now - alarm.from_at > STALE_S) continue; // old news is shown, not rung
      ring(alarm.kind);
      if (document.hidden) show(alarm);
    }
  }

  hear(key: string): void {
    this.heard = [...this.heard, key].slice(-100);
    try {
      sessionStorage.setItem(KEY, JSON.stringify(this.heard));
    } catch {
      return; // it is heard until the page is closed
    }
  }
}

const KEY = "coatlog.heard";
function kept(): string[] {
  try {
    return JSON.parse(sessionStorage.getItem(KEY) ?? "[]") as string[];
  } catch {
    return [];
  }
}

export const watch = new Watch();
