<script lang="ts">
  /** One clock for the whole booth: what is on, what comes next, in figures that are read at three metres. */
  import type { JobPage } from "../../api/client";
  import { going, groupName } from "../../lib/actions";
  import { awake } from "../../lib/awake.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { countdown, when } from "../../lib/format";
  import { watch } from "../../lib/watch.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const now = $derived(serverClock.now);
  type Row = { key: string; big: string; what: string; how: string; due: boolean };
  const rows = $derived.by((): Row[] => {
    const on = going(page);
    const first = on[0];
    const coat: Row[] = first
      ? [
          {
            key: first.film.coat_id,
            big: countdown(now - first.film.started_at),
            what: groupName(
              page,
              on.map((x) => x.partId),
            ),
            how: say.common.coatInProgress,
            due: false,
          },
        ]
      : [];
    const due = watch.all
      .filter((a) => a.jobId === page.head.id && !watch.heard.includes(a.key))
      .map((a) => ({
        key: a.key,
        big: a.at > now ? countdown(a.at - now) : say.timer.on,
        what: a.what,
        how: a.from_at <= now ? a.how : a.from_at < a.at ? say.timer.by(when(a.at, now)) : when(a.at, now),
        due: a.from_at <= now,
      }));
    return [...due.filter((r) => r.due), ...coat, ...due.filter((r) => !r.due)].slice(0, 3);
  });
  // Looked at from afar: the screen stays on as long as this stands.
  $effect(() => {
    awake.want(true);
    return () => awake.want(false);
  });
</script>

<div class="timer" class:due={rows[0]?.due}>
  <h1 class="sr">{say.timer.title}: {page.head.title}</h1>
  {#each rows as row, i (row.key)}
    <section class:first={i === 0}>
      <span class="num" class:long={row.big.length > 5} role="timer">{row.big}</span>
      <p><b>{row.what}</b> {row.how}</p>
    </section>
  {:else}<p class="none">{say.timer.nothing}</p>{/each}
  <a class="btn" href={`#/jobs/${page.head.id}/run`}>{say.timer.back}</a>
</div>

<style>
  .timer {
    flex: 1;
    display: flex;
    flex-direction: column;
    gap: 8px;
    padding: 8px 16px 16px;
    background: var(--ground);
    color: var(--ink);
  }
  /* Turned over: seen from the corner of an eye. */
  .due {
    background: var(--ink);
    color: var(--on-ink);
  }
  section {
    border-top: 2px solid currentColor;
    padding-top: 8px;
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0 16px;
    align-items: center;
  }
  .num {
    font-size: min(15vw, 16vh);
    line-height: 1;
    font-stretch: 70%;
    font-weight: 780;
  }
  .first {
    flex: 1;
    display: flex;
    flex-direction: column;
    align-items: stretch;
    justify-content: center;
    text-align: center;
  }
  .first .num {
    font-size: min(42vw, 58vh);
    line-height: 0.86;
  }
  .first .num.long {
    font-size: min(26vw, 40vh);
  }
  .first p {
    font-size: min(9vw, 9vh);
    font-stretch: 76%;
    line-height: 1.1;
  }
  p {
    font-size: min(5.4vw, 5vh);
    line-height: 1.15;
  }
  .none {
    flex: 1;
    display: grid;
    place-items: center;
    font-size: min(12vw, 12vh);
  }
  .btn {
    min-height: 64px;
    text-align: center;
    color: inherit;
    background: transparent;
    border-color: currentColor;
  }
  .num {
    white-space: nowrap;
  }
</style>
