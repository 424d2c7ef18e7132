<script lang="ts">
  /** "What can I finish before I must leave?": what to do in order, how each part is then left, what fails. */
  import { Answer } from "../lib/answer.svelte";
  import { api, type Schemas } from "../api/client";
  import { serverClock } from "../lib/clock.svelte";
  import { clockTime, duration, when } from "../lib/format";
  import { outbox } from "../lib/outbox.svelte";
  import { typed } from "../lib/units";
  import { say } from "../words";

  type Props = { jobId?: string };
  let { jobId }: Props = $props();
  let minutes = $state("");
  const told = new Answer<Schemas["LeavePage"]>();
  const page = $derived(told.data);
  const now = $derived(serverClock.now);

  $effect(() => {
    void outbox.taken;
    const n = minutes.trim() ? typed(minutes, "min") : undefined;
    if (n !== undefined && !(Number.isInteger(n) && n >= 1 && n <= 2880)) {
      return told.refuse(say.stopping.enteredExpectedMinutesAWhole(minutes));
    }
    const query = { minutes: n, job_id: jobId };
    const wait = setTimeout(() => void told.ask(() => api.GET("/api/leave", { params: { query } })), minutes ? 250 : 0);
    return () => clearTimeout(wait);
  });
  const SHOWN = 8;
  let all = $state(false);
  const lost = $derived((page?.parts ?? []).filter((p) => !p.left.safe));
  const kept = $derived((page?.parts ?? []).filter((p) => p.left.safe));
  function said(p: Schemas["PartLeftOut"]): string {
    const { done, of, why, closes_at } = p.left;
    const what = done === of ? say.stopping.complete : done === 0 ? say.stopping.notStarted : say.stopping.ofStepsDone(done, of);
    if (done === of && !closes_at) return what;
    return `${what}; ${why}${closes_at ? say.stopping.to(when(closes_at, now)) : ""}`;
  }
</script>

<section class="leave" aria-label={say.stopping.whatCanStillBeFinished}>
  <div class="ask">
    <h2>{page ? say.stopping.whatCanBeFinishedBy(when(page.leave_at, now)) : say.stopping.whatCanStillBeFinished2}</h2>
    <label>{say.stopping.minutesIHave} <input inputmode="numeric" bind:value={minutes} placeholder={say.stopping.untilClosingTime} /></label
    >
  </div>
  {#if told.problem}<p class="refusal" role="alert"><b>{told.problem}</b></p>{/if}
  {#if page?.failed}<p class="refusal" role="alert"><b>{say.panels.leave}</b></p>
  {:else if page && !page.parts.length}<p>{say.stopping.nothingLeftToDo}</p>{/if}
  {#if page?.parts.length}
    {#if page.fails_first}<p class="refusal">
        <b>{say.stopping.firstWindowMissed(page.fails_first)}</b>
        {say.stopping.nextOpening(when(page.back_at, now))}
      </p>{/if}
    <ol>
      {#each all ? page.tasks : page.tasks.slice(0, SHOWN) as t (t.key)}<li>
          <b class="num">{clockTime(Math.max(t.start_at, now))}</b>
          {t.label}, {duration(t.end_at - t.start_at)}{t.locked ? say.stopping.inProgress : ""}
        </li>
      {:else}<li>{say.stopping.doNotStartAnotherCoat}</li>{/each}
    </ol>
    {#if page.tasks.length > SHOWN}<p>
        <button class="btn small" aria-expanded={all} onclick={() => (all = !all)}
          >{all ? say.stopping.fewerTasks : say.stopping.allTasks(page.tasks.length)}</button
        >
      </p>{/if}
    <ul>
      {#each [...lost, ...kept] as p (p.left.part_id)}
        <li class:lost={!p.left.safe}>
          <svg width="22" height="22" viewBox="0 0 22 22" role="img" aria-label={p.left.safe ? say.common.safe : say.stopping.notSafe}>
            <rect x="1" y="1" width="20" height="20" fill="none" stroke="var(--ink)" stroke-width="2" />
            {#if p.left.safe}<path d="M5 11l4 5 8-10" fill="none" stroke="var(--ink)" stroke-width="2.6" />{:else}<path
                d="M3 19L19 3"
                stroke="var(--ink)"
                stroke-width="2.6"
              />{/if}
          </svg>
          <span
            ><b>{p.part}</b>{jobId ? "" : `, ${p.title}`}: {said(p)}.{p.left.latest_start_at && p.left.latest_start_at > now
              ? say.stopping.startTheLastStepBy(when(p.left.latest_start_at, now))
              : ""}</span
          >
        </li>
      {/each}
    </ul>
  {/if}
</section>

<style>
  .leave {
    padding: 14px 24px;
    border-top: 2px solid var(--ink);
    display: grid;
    gap: 10px;
    align-content: start;
  }
  .ask {
    display: flex;
    gap: 20px;
    align-items: end;
    flex-wrap: wrap;
    justify-content: space-between;
  }
  label {
    font-weight: 640;
    font-size: 14px;
    width: 170px;
  }
  ol,
  ul {
    list-style: none;
    display: grid;
    gap: 4px;
  }
  ol {
    grid-template-columns: repeat(auto-fill, minmax(330px, 1fr));
  }
  ol .num {
    font-size: 22px;
    margin-right: 6px;
  }
  ul li {
    display: grid;
    grid-template-columns: 30px 1fr;
    align-items: center;
    border-top: 1px solid var(--rule);
    padding-top: 4px;
  }
  .lost b {
    text-decoration: line-through;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 700px) {
    .leave {
      padding: 12px 16px;
    }
    ol {
      grid-template-columns: 1fr;
    }
  }
</style>
