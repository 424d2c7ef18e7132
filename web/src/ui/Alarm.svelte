<script lang="ts">
  /** A clock that is about to run out is said aloud once: a buzz, a beep, and a line until it is done or lost. */
  import type { JobPage } from "../api/client";
  import { serverClock } from "../lib/clock.svelte";
  import { when } from "../lib/format";
  import { say } from "../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  type Clock = JobPage["view"]["clocks"][number];
  const now = $derived(serverClock.now);
  const HEARD: Clock["kind"][] = ["window", "then", "unmask"];
  /** So long before the latest safe start it rings [s]. */
  const AHEAD_S = 120;
  const running = $derived(new Set(page.state.parts.filter((p) => p.films.at(-1)?.done_at === null).map((p) => p.part_id)));
  const pressing = $derived(
    page.view.clocks.filter(
      (c) =>
        HEARD.includes(c.kind) &&
        !running.has(c.subject) &&
        c.latest_start_at &&
        c.latest_start_at - AHEAD_S <= now &&
        (c.closes_at ?? 0) > now &&
        (c.opens_at ?? 0) <= now,
    ),
  );
  const key = (c: Clock): string => `${c.kind} ${c.subject} ${c.closes_at}`;
  let rung: string[] = [];

  $effect(() => {
    const fresh = pressing.map(key).filter((k) => !rung.includes(k));
    if (!fresh.length) return;
    rung = [...rung, ...fresh];
    navigator.vibrate?.([300, 150, 300]);
    beep();
  });
  /** Two short tones; a browser nobody has touched yet stays silent, and the line stands all the same. */
  function beep(): void {
    const context = new AudioContext();
    for (const at of [0, 0.35]) {
      const tone = context.createOscillator();
      tone.frequency.value = 880;
      tone.connect(context.destination);
      tone.start(context.currentTime + at);
      tone.stop(context.currentTime + at + 0.2);
    }
    setTimeout(() => void context.close(), 1500);
  }
</script>

<div aria-live="assertive">
  {#each pressing as c, i (i)}
    <p><b>{c.label}</b> {say.alarm.startByCloses(when(c.latest_start_at!, now), when(c.closes_at!, now))}</p>
  {/each}
</div>

<style>
  p {
    padding: 8px 24px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
    border-left: 10px solid var(--ink);
  }
</style>
