<script lang="ts">
  /** Survey or stack of a running job, changed: a new version, adopted by an entry. */
  import { api, type Finding, inWords, type Schemas } from "../api/client";
  import type { Cut } from "../lib/cut.svelte";
  import { Draft, type Side } from "../lib/draft.svelte";
  import { outbox } from "../lib/outbox.svelte";
  import ChangeTold from "./ChangeTold.svelte";
  import Desk from "./Desk.svelte";
  import Fetched from "./Fetched.svelte";
  import StackForm from "./StackForm.svelte";
  import StackSide from "./StackSide.svelte";
  import SurveyForm from "./SurveyForm.svelte";
  import { say } from "../words";

  type Props = { jobId: string; what: "survey" | "stack"; cut?: Cut | null; done: () => void };
  let { jobId, what, cut = null, done }: Props = $props();
  const draft = new Draft();
  let told = $state<Record<Side, { findings: Finding[]; summary: Schemas["Summary"] | null }>>({
    a: { findings: [], summary: null },
    b: { findings: [], summary: null },
  });
  let refusal = $state("");
  let reason = $state("");
  let busy = $state(false);
  $effect(() => {
    void draft.load(jobId, false).then(() => {
      const whole = draft.parts.find((p) => p.id === cut?.partId);
      if (cut && whole) draft.cut(whole, cut.into);
    });
  });
  const stops = $derived(told[draft.chosen].findings.filter((f) => f.severity === "stop" && !(draft.reasons[f.rule_id] ?? "").trim()));

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    refusal = draft.wrong();
    if (refusal) return;
    busy = true;
    const { data, error } = await api.PUT("/api/jobs/{job_id}/stack", {
      params: { path: { job_id: jobId } },
      body: { ...draft.stack(), reason },
    });
    busy = false;
    refusal = data ? "" : inWords(error);
    if (!data) return;
    outbox.taken += 1;
    done();
  }
</script>

<Fetched {draft} />
{#if !draft.loaded}<p class="wait">{draft.problem ? "" : say.revise.loadingTheJob}</p>{:else}
  <Desk submit={save} leave={done} sideLabel={say.common.system}>
    {#snippet form()}
      {#if what === "survey"}<SurveyForm {draft} />
        <div hidden><StackForm {draft} bind:told /></div>
      {:else}<StackForm {draft} bind:told />{/if}
      <ChangeTold {jobId} {draft} />
      <label>{say.revise.reasonForTheChange} <input bind:value={reason} placeholder={say.revise.recordedInTheLog} /></label>
      {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
      <div class="row">
        <button class="btn go" disabled={busy || stops.length > 0}
          >{stops.length ? say.revise.cannotSaveResolveTheStops : say.revise.saveChanges}</button
        >
        <button type="button" class="btn" onclick={done}>{say.common.cancel}</button>
      </div>
    {/snippet}
    {#snippet side()}<StackSide {draft} {told} />{/snippet}
  </Desk>
{/if}

<style>
  .wait {
    padding: 24px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .row {
    display: flex;
    gap: 10px;
    flex-wrap: wrap;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
