<script lang="ts">
  /** The survey: the parts as they are found, what they must survive, what the object is or hides. */
  import type { Draft } from "../lib/draft.svelte";
  import Choices from "./Choices.svelte";
  import PartForm from "./PartForm.svelte";
  import { say } from "../words";

  type Props = { draft: Draft };
  let { draft }: Props = $props();
  let open = $state<number | null>(null);
  function mark(id: string): void {
    draft.features = draft.features.includes(id) ? draft.features.filter((x) => x !== id) : [...draft.features, id];
  }
  function toggle(id: string): void {
    draft.survive = draft.survive.includes(id) ? draft.survive.filter((x) => x !== id) : [...draft.survive, id];
  }
</script>

<div class="survey">
  {#if draft.parts.every((p) => p.id === null)}
    <label class="like"
      >{say.surveyForm.startFromATemplate}
      <select value="" onchange={(e) => draft.like(e.currentTarget.value)}>
        <option value="">{say.surveyForm.chooseOneItFillsIn}</option>
        {#each draft.survey?.templates.filter((t) => t.kind === draft.kind || t.kind === "any") ?? [] as t (t.id)}<option value={t.id}
            >{t.name}</option
          >{/each}
      </select></label
    >
  {/if}
  {#each draft.parts as p, i (p.key)}
    <PartForm
      {draft}
      {p}
      n={i + 1}
      open={open === p.key}
      toggle={() => (open = open === p.key ? null : p.key)}
      drop={draft.parts.length > 1 ? () => draft.parts.splice(i, 1) : null}
    />
  {/each}
  <div><button type="button" class="btn small" onclick={() => draft.addPart()}>{say.surveyForm.addPart}</button></div>
  <Choices title={say.surveyForm.whatItHasToWithstand} words={draft.survey?.exposures ?? []} picked={draft.survive} {toggle} />
  <details open={draft.features.length > 0 || draft.dark}>
    <summary>{say.surveyForm.specialFeatures(draft.features.length ? say.surveyForm.marked(draft.features.length) : "")}</summary>
    <div class="row" role="group" aria-label={say.surveyForm.specialFeatures2}>
      <button type="button" class="btn small" class:go={draft.dark} aria-pressed={draft.dark} onclick={() => (draft.dark = !draft.dark)}
        >{say.surveyForm.aDarkColourIsWanted}</button
      >
      {#each (draft.survey?.features ?? []).filter((x) => x.kind === "any" || x.kind === draft.kind || draft.features.includes(x.id)) as x (x.id)}
        <button
          type="button"
          class="btn small"
          class:go={draft.features.includes(x.id)}
          aria-pressed={draft.features.includes(x.id)}
          onclick={() => mark(x.id)}>{x.name}</button
        >
      {/each}
    </div>
  </details>
</div>

<style>
  .survey {
    display: grid;
    gap: 10px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  summary {
    font-weight: 640;
    min-height: 44px;
  }
  .row {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
</style>
