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
  import { say } from "../../words";

  const draft = new Draft();
  let told = $state<Record<Side, { findings: Finding[]; summary: Schemas["Summary"] | null }>>({
    a: { findings: [], summary: null },
    b: { findings: [], summary: null },
  });
  let refusal = $state("");
  let errors = $state.raw<Problem["errors"]>([]);
  let busy = $state(false);
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
    refusal = draft.wrong();
    if (refusal) return;
    busy = true;
    const { data, error } = await api.POST("/api/jobs", { body: draft.job() });
    busy = false;
    if (data) return void push(`/jobs/${data.id}/run`);
    refusal = inWords(error);
    errors = (error as unknown as Problem | undefined)?.errors ?? [];
  }
</script>

<Fetched {draft} />
{#if from && !draft.loaded}<p class="wait">{draft.problem ? "" : say.newJob.loadingTheJobItIs}</p>{:else}
  <Desk submit={create} sideLabel={say.newJob.systemSoFar}>
    {#snippet form()}
      <h1>{repaired ? say.newJob.repairOfAJob : from ? say.newJob.copyOfAJob : say.common.newJob}</h1>
      <div class="four">
        <label>{say.newJob.jobTitle} <input bind:value={draft.title} placeholder={say.newJob.loadBed} /></label>
        <label>{say.newJob.vehicleBoatOrAircraft} <input bind:value={draft.asset} placeholder={say.newJob.crewCabPickup} /></label>
        <label
          >{say.newJob.type}
          <select bind:value={draft.kind}
            ><option value="road">{say.newJob.roadVehicle}</option><option value="vessel">{say.newJob.boat}</option><option value="aircraft"
              >{say.newJob.aircraft}</option
            ></select
          ></label
        >
        <label
          >{say.newJob.bayOrLocation}
          <select bind:value={draft.place}
            >{#each session.who?.places ?? [] as p (p.id)}<option value={p.id}>{p.name}</option>{/each}</select
          ></label
        >
        <label>{MARKS[draft.kind]} <input bind:value={draft.mark} /></label>
        <label>{say.newJob.paintCode} <input bind:value={draft.paint_code} /></label>
        <label>{say.newJob.customer} <input bind:value={draft.customer} /></label>
      </div>
      <h2>{say.common.survey}</h2>
      <SurveyForm {draft} />
      <h2>{say.common.coatingSystem}</h2>
      <StackForm {draft} bind:told />
      {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
      {#each errors as e, i (i)}{#if e.field}<p class="refusal">{e.field}: {e.expected}</p>{/if}{/each}
      <div>
        <button class="btn go" disabled={busy || stops.length > 0}
          >{busy ? say.newJob.planning : stops.length ? say.newJob.cannotStartResolveTheStops : say.newJob.createJob}</button
        >
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
    grid-template-columns: repeat(4, 1fr);
    gap: 10px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 1000px) {
    .four {
      grid-template-columns: 1fr 1fr;
    }
  }
</style>
