<script lang="ts">
  /** Words about a job put right, and the job closed, given up or opened again; the log keeps what was. */
  import { api, type JobPage } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { stamp } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { say } from "../../words";

  let { page }: { page: JobPage } = $props();
  const sent = new Answer<unknown>();
  // What stands there is where the typing starts.
  // svelte-ignore state_referenced_locally
  const head = page.head;
  let words = $state({
    title: head.title,
    asset: head.asset,
    mark: head.mark,
    paint_code: head.paint_code,
    customer: head.customer,
  });
  let reason = $state("");
  let refusal = $state("");
  const ended = $derived(page.state.ended ?? null);

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const data = await sent.ask(() => api.PUT("/api/jobs/{job_id}/words", { params: { path: { job_id: page.head.id } }, body: words }));
    if (data) outbox.taken += 1;
  }
  async function end(how: "closed" | "abandoned"): Promise<void> {
    refusal = "";
    if (how === "abandoned" && reason.trim().length < 4) return void (refusal = say.ending.sayWhy);
    const text = how === "closed" ? say.ending.closed : say.ending.abandoned;
    await outbox.add(page.head.id, [{ kind: "job_ended", body: { how, reason: reason.trim() } }], text);
    reason = "";
  }
  const archive = (archived: boolean): Promise<string[]> =>
    outbox.add(page.head.id, [{ kind: "archived", body: { archived } }], archived ? say.ending.archived : say.ending.unarchived);
  const reopen = (): Promise<string[]> =>
    outbox.add(page.head.id, [{ kind: "job_reopened", body: { reason: reason.trim() } }], say.ending.reopened);
</script>

{#if session.mayWrite}
  <section class="noprint">
    <h3>{say.ending.title}</h3>
    {#if ended}
      <p>
        <b>{ended.how === "closed" ? say.ending.closed : say.ending.abandoned}</b>
        {stamp(ended.at)}{ended.reason ? `: ${ended.reason}` : ""}
      </p>
      <button type="button" class="btn small" onclick={reopen}>{say.ending.reopen}</button>
    {:else}
      <label>{say.ending.why} <input bind:value={reason} maxlength="400" /></label>
      <div class="row">
        <button type="button" class="btn small" onclick={() => end("closed")}>{say.ending.close}</button>
        <button type="button" class="btn small" onclick={() => end("abandoned")}>{say.ending.abandon}</button>
        <span class="mute">{say.ending.plansStop}</span>
      </div>
      {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
    {/if}
    <div class="row">
      <button type="button" class="btn small" onclick={() => archive(!page.state.archived)}
        >{page.state.archived ? say.ending.unarchive : say.ending.archive}</button
      >
      <span class="mute">{say.ending.archiveHint}</span>
    </div>
    <details>
      <summary>{say.ending.correct}</summary>
      <form onsubmit={save}>
        <label>{say.newJob.jobTitle} <input bind:value={words.title} maxlength="120" /></label>
        <label>{say.newJob.vehicleBoatOrAircraft} <input bind:value={words.asset} maxlength="120" /></label>
        <label>{say.ending.number} <input bind:value={words.mark} maxlength="60" /></label>
        <label>{say.newJob.paintCode} <input bind:value={words.paint_code} maxlength="60" /></label>
        <label>{say.newJob.customer} <input bind:value={words.customer} maxlength="60" /></label>
        <button class="btn small" disabled={sent.waiting}>{say.common.save}</button>
      </form>
      <p class="mute">{sent.problem || say.ending.logKeeps}</p>
    </details>
  </section>
{/if}

<style>
  section {
    display: grid;
    gap: 10px;
  }
  .row,
  form {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
  }
  summary {
    min-height: 44px;
    font-weight: 640;
  }
  @media print {
    .noprint {
      display: none;
    }
  }
</style>
