<script lang="ts">
  /** A job by hand, in the order of work: what it is, its parts, the stack that goes on. */
  import { push, router } from "svelte-spa-router";
  import { api, type Finding, inWords, type Problem, type Schemas } from "../../api/client";
  import { Draft, type Side } from "../../lib/draft.svelte";
  import { session } from "../../lib/session.svelte";
  import Desk from "../../draft/Desk.svelte";
  import Fetched from "../../draft/Fetched.svelte";
  import StackForm from "../../draft/StackForm.svelte";
  import StackSide from "../../draft/StackSide.svelte";
  import SurveyForm from "../../draft/SurveyForm.svelte";
  import Usual from "../../draft/Usual.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { timeTyped } from "../../lib/times";
  import { say } from "../../words";

  const draft = new Draft();
  let told = $state<Record<Side, { findings: Finding[]; summary: Schemas["Summary"] | null }>>({
    a: { findings: [], summary: null },
    b: { findings: [], summary: null },
  });
  let refusal = $state("");
  let errors = $state.raw<Problem["errors"]>([]);
  let busy = $state(false);
  /** On a phone one step at a time; at a desk all three stand below each other, beside the picture. */
  const STEPS = [say.newSteps.object, say.newSteps.parts, say.newSteps.system];
  let at = $state(0);
  let innerWidth = $state(1280);
  const phone = $derived(innerWidth < 700);
  /** By when it must be done, in the shop's time. */
  let by = $state("");
  const query = $derived(new URLSearchParams(router.querystring ?? ""));
  const repaired = $derived(query.get("repair"));
  const from = $derived(query.get("from") ?? repaired);
  $effect(() => {
    if (from) void draft.load(from, true, Boolean(repaired));
  });
  const MARKS: Record<string, string> = { road: say.newJob.registration, vessel: say.newJob.hullNumber, aircraft: say.newJob.tailNumber };
  const stops = $derived(told[draft.chosen].findings.filter((f) => f.severity === "stop" && !(draft.reasons[f.rule_id] ?? "").trim()));

  async function create(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    errors = [];
    const due_at = timeTyped(by, serverClock.now);
    refusal = draft.wrong() || (Number.isNaN(due_at) ? say.newSteps.byWrong : "");
    if (refusal) return;
    busy = true;
    const { data, error } = await api.POST("/api/jobs", { body: draft.job() });
    if (data && due_at !== null) {
      const dates = { due_at, ready_at: null, slot_at: null, slot_for: "" as const, parts_from: {} };
      await api.POST("/api/jobs/{job_id}/dates", { params: { path: { job_id: data.id } }, body: dates });
    }
    busy = false;
    if (data) return void push(`/jobs/${data.id}/run`);
    refusal = inWords(error);
    errors = (error as unknown as Problem | undefined)?.errors ?? [];
  }
</script>

<svelte:window bind:innerWidth />
<Fetched {draft} />
{#if from && !draft.loaded}<p class="wait">{draft.problem ? "" : say.newJob.loadingTheJobItIs}</p>{:else}
  <Desk submit={create} sideLabel={say.newJob.systemSoFar}>
    {#snippet form()}
      <h1>{repaired ? say.newJob.repairOfAJob : from ? say.newJob.copyOfAJob : say.common.newJob}</h1>
      {#if phone}
        <nav class="steps" aria-label={say.newSteps.steps}>
          {#each STEPS as name, i (name)}<button
              type="button"
              class="btn small"
              class:go={at === i}
              aria-current={at === i ? "step" : undefined}
              onclick={() => (at = i)}>{say.newSteps.of(i + 1, name)}</button
            >{/each}
        </nav>
      {/if}
      <section hidden={phone && at !== 0} aria-label={STEPS[0]}>
        {#if !phone}<h2>{say.newSteps.of(1, STEPS[0]!)}</h2>{/if}
        <Usual {draft} fresh={!from} />
        <div class="four">
          <label>{say.newJob.jobTitle} <input bind:value={draft.title} placeholder={say.newJob.loadBed} /></label>
          <label>{say.newJob.vehicleBoatOrAircraft} <input bind:value={draft.asset} placeholder={say.newJob.crewCabPickup} /></label>
          <label
            >{say.newJob.bayOrLocation}
            <select bind:value={draft.place}
              >{#each session.places as p (p.id)}<option value={p.id}>{p.name}</option>{/each}</select
            ></label
          >
          <label>{say.newSteps.by} <input type="datetime-local" bind:value={by} /></label>
          <label>{MARKS[draft.kind]} <input bind:value={draft.mark} /></label>
          <label>{say.newJob.paintCode} <input bind:value={draft.paint_code} /></label>
          <label>{say.newJob.customer} <input bind:value={draft.customer} /></label>
        </div>
      </section>
      <section hidden={phone && at !== 1} aria-label={STEPS[1]}>
        <h2>{say.newSteps.of(2, say.newSteps.parts)}</h2>
        <SurveyForm {draft} />
      </section>
      <section hidden={phone && at !== 2} aria-label={STEPS[2]}>
        <h2>{say.newSteps.of(3, say.newSteps.system)}</h2>
        <StackForm {draft} bind:told unasked={phone && at === 2} />
      </section>
      {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
      {#each errors as e, i (i)}{#if e.field}<p class="refusal">{e.field}: {e.expected}</p>{/if}{/each}
      <div class="row">
        {#if phone && at > 0}<button type="button" class="btn" onclick={() => (at -= 1)}>{say.newSteps.back}</button>{/if}
        {#if phone && at < 2}<button type="button" class="btn go" onclick={() => (at += 1)}>{say.newSteps.next}</button>
        {:else}<button class="btn go" disabled={busy || stops.length > 0}
            >{busy ? say.newJob.planning : stops.length ? say.newJob.cannotStartResolveTheStops : say.newJob.createJob}</button
          >{/if}
      </div>
    {/snippet}
    {#snippet side()}<StackSide {draft} {told} />{/snippet}
  </Desk>
{/if}

<style>
  .wait {
    padding: 24px;
  }
  h1 {
    font-size: 34px;
  }
  h2 {
    border-top: 2px solid var(--edge);
    padding-top: 10px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .four {
    display: grid;
    grid-template-columns: repeat(4, minmax(0, 1fr));
    align-items: end;
    gap: 10px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  section {
    display: grid;
    gap: 12px;
  }
  section[hidden] {
    display: none;
  }
  .steps .btn {
    flex: 1;
    padding: 0 6px;
  }
  .steps,
  .row {
    display: flex;
    gap: 8px;
    flex-wrap: wrap;
  }
  @media (max-width: 1000px) {
    .four {
      grid-template-columns: repeat(2, minmax(0, 1fr));
    }
  }
</style>
