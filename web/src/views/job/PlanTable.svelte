<script lang="ts">
  /** The plan in words: when, what, how the hand goes, why then, how much it may slip; moves and steps done. */
  import { api, inReadersWords, inWords, type JobPage, type PlanTask } from "../../api/client";
  import { stepDone, stepWord } from "../../lib/actions";
  import { plannersAnswer, whileHere } from "../../lib/asked";
  import { clockTime, duration, when } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { timeTyped } from "../../lib/times";
  import { say } from "../../words";

  type Props = {
    page: JobPage;
    now: number;
    task: string | null;
    pickTask: (key: string | null) => void;
    refusal: string;
    setRefusal: (text: string) => void;
  };
  let { page, now, task, pickTask, refusal, setRefusal }: Props = $props();
  const here = whileHere();
  let all = $state(false);
  let put = $state("");
  const tasks = $derived(page.plan?.tasks ?? []);
  const shown = $derived(all || tasks.length <= 18 ? tasks : tasks.slice(0, 14));
  const hands = $derived(Boolean(page.plan?.people?.length) || tasks.some((t) => t.painter > 0 || t.others?.length));
  const chosen = $derived(tasks.find((t) => t.key === task));
  /** Who does it: by name, where the shop has said who is in the plan. */
  function who(t: PlanTask): string {
    const numbers = [t.painter, ...(t.others ?? [])].toSorted((a, b) => a - b);
    const names = page.plan?.people ?? [];
    return names.length
      ? numbers.map((n) => names[n] ?? String(n + 1)).join(" + ")
      : say.plan.painter(numbers.map((n) => n + 1).join(" + "));
  }
  const kinds: Record<string, string> = { mix: say.common.mixInline, setup: say.plan.setUp, clean: say.plan.clean };

  export async function move(key: string, at: number): Promise<void> {
    setRefusal("");
    const { error } = await plannersAnswer(
      here,
      api.POST("/api/jobs/{job_id}/move", { params: { path: { job_id: page.head.id } }, body: { task_key: key, start_at: at } }),
      (told) => told.plan,
    );
    if (error) setRefusal(inWords(error));
    outbox.taken += 1;
  }
  function putAt(): void {
    const at = timeTyped(put, now);
    if (at === null || Number.isNaN(at)) return setRefusal(say.plan.enteredExpectedATimeLike(put));
    if (chosen) void move(chosen.key, at);
  }
  /** Steps of the list are ticked with their check; others are told from here, the first of a part. */
  const due = (t: PlanTask): boolean =>
    Boolean(t.step) && !tasks.some((o) => o.part_id === t.part_id && o.start_at < t.start_at && o.kind !== "mix" && o.kind !== "setup");
</script>

{#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
{#if chosen && session.mayWrite}
  <div class="mover" role="group" aria-label={say.plan.moveTheSelectedTask}>
    <p>
      <b>{chosen.label}</b>
      {when(chosen.start_at, now)}, {chosen.binds.ref}.{chosen.slack_s !== null && chosen.slack_s !== undefined
        ? say.plan.maySlip(duration(chosen.slack_s))
        : ""}
    </p>
    <button class="btn small" onclick={() => move(chosen.key, chosen.start_at - 300)}>{say.plan.n5MinEarlier}</button>
    <button class="btn small" onclick={() => move(chosen.key, chosen.start_at + 300)}>{say.plan.n5MinLater}</button>
    <label
      >{say.plan.moveTo}
      <input
        inputmode="numeric"
        placeholder={clockTime(chosen.start_at)}
        bind:value={put}
        onkeydown={(e) => e.key === "Enter" && putAt()}
      /></label
    >
    <button class="btn small" disabled={!put.trim()} onclick={putAt}>{say.plan.move}</button>
    <button class="btn small" onclick={() => pickTask(null)}>{say.common.cancel}</button>
  </div>
{/if}
<table>
  <caption class="sr">{say.plan.plannedTasksOfThisJob}</caption>
  <thead
    ><tr
      ><th>{say.common.start}</th><th>{say.common.what}</th><th>{say.plan.takes}</th><th>{say.plan.waitsFor}</th><th>{say.plan.maySlip2}</th
      ></tr
    ></thead
  >
  <tbody>
    {#each shown as t (t.key)}
      <tr class:side={t.kind in kinds} class:on={t.key === task}>
        <td><b>{t.locked ? say.common.inProgress : when(Math.max(t.start_at, now), now)}</b></td>
        <td
          >{t.label}{#if t.direction || t.character}<span class="how"
              >{[t.character, t.direction].filter(Boolean).map(inReadersWords).join(", ")}</span
            >{/if}{#if hands && t.hands !== 0}<span class="how">{who(t)}</span>{/if}
          {#if due(t) && session.mayWrite}<button class="done" onclick={() => stepDone(page, [t.part_id], t.step ?? "")}
              >{say.plan.done(stepWord(t.step ?? ""))}</button
            >{/if}</td
        >
        <td>{duration(t.end_at - t.start_at)}</td><td>{t.binds.ref}</td>
        <td>{t.locked || t.slack_s === null || t.slack_s === undefined ? "" : duration(t.slack_s)}</td>
      </tr>
    {/each}
  </tbody>
</table>
{#if tasks.length > shown.length}<button class="btn small" onclick={() => (all = true)}>{say.plan.allTasks(tasks.length)}</button>{/if}

<style>
  table {
    width: 100%;
    font-size: 14px;
  }
  th,
  td {
    padding: 4px 10px 4px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: baseline;
  }
  td:first-child,
  td:nth-child(3) {
    white-space: nowrap;
  }
  .side td {
    color: var(--ink2);
  }
  .side td:nth-child(2) {
    padding-left: 14px;
  }
  .on td {
    background: var(--lift);
  }
  .how {
    color: var(--ink2);
    margin-left: 8px;
  }
  .done {
    margin-left: 10px;
    font: inherit;
    font-weight: 680;
    min-height: 30px;
    padding: 0 10px;
    border: 2px solid var(--ink);
    background: transparent;
    color: var(--ink);
    cursor: pointer;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .mover {
    display: flex;
    gap: 10px;
    flex-wrap: wrap;
    align-items: center;
    background: var(--lift);
    padding: 10px 12px;
    border: 2px solid var(--ink);
  }
  .mover p {
    flex: 1 1 100%;
  }
  .mover label {
    display: flex;
    gap: 8px;
    align-items: center;
    font-weight: 640;
  }
  .mover input {
    width: 92px;
  }
</style>
