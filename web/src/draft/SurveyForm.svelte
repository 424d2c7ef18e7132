<script lang="ts">
  /** The survey: the parts as they are found, what they must survive, what the object is or hides. */
  import type { Draft } from "../lib/draft.svelte";
  import Choices from "./Choices.svelte";
  import PartForm from "./PartForm.svelte";
  import Systems from "./Systems.svelte";
  import { say } from "../words";

  type Props = { draft: Draft };
  let { draft }: Props = $props();
  let open = $state<number | null>(null);
  const survive = $derived(draft.common("survive"));
  const features = $derived(draft.common("features"));
  const marked = $derived(features.all.length + features.some.length);
  const dark = $derived(draft.partsOf().every((p) => p.dark));
  /** Where something may have to stay as it is, nobody is left to think of asking; elsewhere it is asked in sight too. */
  const ASKED = ["wheel_clear", "interior_plastic", "greasy_plastic", "vinyl", "greasy_vinyl", "leather"];
  const opens = $derived(draft.kind !== "road" || draft.parts.some((p) => ASKED.includes(p.substrate)));
  const silent = $derived(draft.parts.some((p) => !p.features.length));
  const unanswered = $derived(opens && silent);
</script>

<div class="survey">
  {#each draft.parts as p, i (p.key)}
    <PartForm
      {draft}
      {p}
      n={i + 1}
      open={open === p.key}
      toggle={() => (open = open === p.key ? null : p.key)}
      drop={draft.parts.length > 1 ? () => draft.drop(i) : null}
    />
  {/each}
  <div><button type="button" class="btn small" onclick={() => draft.addPart()}>{say.surveyForm.addPart}</button></div>
  <Systems {draft} />
  <Choices
    title={say.surveyForm.whatItHasToWithstand}
    words={draft.survey?.exposures ?? []}
    picked={survive.all}
    some={survive.some}
    toggle={(id) => draft.tickAll("survive", id)}
  />
  <details open={opens || silent || marked > 0 || dark}>
    <summary>{say.surveyForm.specialFeatures(marked ? say.surveyForm.marked(marked) : "")}</summary>
    {#if unanswered}<p class="ask"><b>{say.surveyForm.answerThis}</b></p>{/if}
    <Choices
      title={say.surveyForm.specialFeatures2}
      words={draft.featuresAsked(features)}
      picked={features.all}
      some={features.some}
      toggle={(id) => draft.tickAll("features", id)}
    />
    <div class="row">
      <button
        type="button"
        class="btn small"
        class:go={dark}
        aria-pressed={dark}
        onclick={() => {
          const on = !dark;
          for (const p of draft.partsOf()) p.dark = on;
        }}>{say.surveyForm.aDarkColourIsWanted}</button
      >
    </div>
    {#if draft.parts.length > 1}<p class="mute">{say.surveyForm.oneByOne}</p>{/if}
  </details>
</div>

<style>
  .survey {
    display: grid;
    gap: 10px;
  }
  summary {
    font-weight: 640;
    min-height: 44px;
  }
  details .row,
  details > p {
    margin-top: 10px;
  }
  .ask {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
    margin-bottom: 8px;
  }
  .row {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
</style>
