<script lang="ts">
  /** Two stacks side by side, judged as they are built; one is chosen, the other kept with its reason. */
  import { Answer } from "../lib/answer.svelte";
  import { api, type Finding, inReadersWords, type Schemas } from "../api/client";
  import type { Draft, Side } from "../lib/draft.svelte";
  import { unit } from "../lib/format";
  import Suggest from "./Suggest.svelte";
  import Systems from "./Systems.svelte";
  import { say } from "../words";

  type Verdicts = { findings: Finding[]; summary: Schemas["Summary"] | null };
  type Props = { draft: Draft; told: Record<Side, Verdicts> };
  let { draft, told = $bindable() }: Props = $props();
  let side = $state<Side>("a");
  let pick = $state("");
  const shelf = $derived(draft.shelf.toSorted((x, y) => x.sheet.kind.localeCompare(y.sheet.kind)));

  const asked = { a: new Answer<Verdicts>(), b: new Answer<Verdicts>() };
  $effect(() => {
    const parts = draft.rough();
    const jobs = (["a", "b"] as const).map((s) => ({ s, layers: draft.layers(s), rows: draft[s].length, prep: draft.prep[s] }));
    const place = draft.place || null;
    const kind = draft.kind as "road";
    void draft.answers;
    if (!draft.shelf.length) return;
    const wait = setTimeout(() => {
      for (const { s, layers, rows, prep } of jobs) {
        if (layers.length < rows) {
          // A number half typed: a stack judged without that layer would be another stack.  What was said stands.
          asked[s].refuse("");
          continue;
        }
        if (!layers.length) {
          asked[s].refuse("");
          told[s] = { findings: [], summary: null };
          continue;
        }
        void asked[s]
          .ask(() => api.POST("/api/judge", { body: { parts, layers, prep, place_id: place, asset_kind: kind } }))
          .then((data) => {
            if (data) told[s] = data;
          });
      }
    }, 150);
    return () => clearTimeout(wait);
  });
  function add(): void {
    if (pick) draft.addLayer(side, pick);
    pick = "";
  }
</script>

<div class="stackform">
  <Systems {draft} />
  <div class="row" role="group" aria-label={say.systemForm.optionBeingEdited}>
    {#each ["a", "b"] as const as s (s)}
      <button type="button" class="btn small" class:go={side === s} aria-pressed={side === s} onclick={() => (side = s)}
        >{s === "a" ? say.common.optionA : say.common.optionB}{draft[s].length ? `, ${draft[s].length}` : ""}</button
      >
    {/each}
    <span class="mute">{say.systemForm.inTheOrderTheyAre}</span>
  </div>
  {#if asked[side].problem}<p class="mute">{say.systemForm.notChecked(asked[side].problem)}</p>{/if}
  <Suggest {draft} {side} />
  {#if draft.prep[side]}<p>
      {say.systemForm.surfacePreparation} <b>{draft.prepWords(side)}</b>.
      <button type="button" class="btn small" onclick={() => (draft.prep[side] = "")}>{say.systemForm.noExtraPreparation}</button>
    </p>{/if}
  <label class="check"><input type="checkbox" bind:checked={draft.planSteps} /> {say.systemForm.includePreparationAndMaskingIn}</label>
  {#each draft[side] as l, i (i)}
    {@const sheet = draft.sheet(l.sheet_id)}
    <div class="layer">
      <p><span><b>{i + 1}. {sheet?.name}</b>{sheet?.grade === "typical" ? say.systemForm.typicalValues : ""}</span></p>
      <label>{say.common.coats} <input inputmode="numeric" bind:value={l.coats} /></label>
      {#if sheet?.film}<label>{say.systemForm.totalDft(unit("um"))} <input inputmode="decimal" bind:value={l.um} /></label>{:else}<p
          class="mute"
        >
          {say.common.noFilmBuild}
        </p>{/if}
      <label class="check"
        ><input
          type="checkbox"
          checked={Boolean(l.patches)}
          onchange={(e) => (l.patches = e.currentTarget.checked ? { n: "1", across: "", area: "" } : null)}
        />
        {say.systemForm.onPatches}</label
      >
      {#if l.patches}
        <div class="patches">
          <label>{say.systemForm.patches} <input inputmode="numeric" bind:value={l.patches.n} /></label>
          <label>{say.systemForm.acrossEach(unit("mm"))} <input inputmode="decimal" bind:value={l.patches.across} /></label>
          <label>{say.systemForm.orArea(unit("m2"))} <input inputmode="decimal" bind:value={l.patches.area} /></label>
        </div>
      {/if}
      <button
        type="button"
        class="btn small"
        disabled={i === 0}
        onclick={() => draft[side].splice(i - 1, 2, l, draft[side][i - 1]!)}
        aria-label={say.systemForm.moveLayerDown(i + 1)}>{say.systemForm.moveDown}</button
      >
      <button type="button" class="btn small" onclick={() => draft[side].splice(i, 1)} aria-label={say.systemForm.removeLayer(i + 1)}
        >{say.common.remove}</button
      >
    </div>
  {/each}
  <div class="row">
    <label class="grow"
      >{say.systemForm.addALayer}
      <select bind:value={pick}
        ><option value="">{say.systemForm.chooseAMaterial}</option>{#each shelf as s (s.sheet.id)}<option value={s.sheet.id}
            >{s.sheet.name}, {inReadersWords(s.sheet.kind)}</option
          >{/each}</select
      ></label
    >
    <button type="button" class="btn small" disabled={!pick} onclick={add}>{say.systemForm.addLayer}</button>
  </div>
</div>

<style>
  .stackform {
    display: grid;
    gap: 10px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .check {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 44px;
  }
  .check input {
    width: 24px;
    min-height: 24px;
  }
  .row {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
  }
  .row .mute {
    align-self: center;
    font-size: 14px;
  }
  .grow {
    flex: 1;
  }
  .layer {
    display: grid;
    grid-template-columns: 1.5fr 90px 150px auto auto auto;
    gap: 10px;
    align-items: end;
  }
  .patches {
    grid-column: 1 / -1;
    grid-row: 2;
    display: grid;
    grid-template-columns: 90px 150px 150px;
    gap: 10px;
  }
  .layer p {
    min-height: 44px;
    display: flex;
    align-items: center;
    gap: 6px;
  }
  @media (max-width: 900px) {
    .layer {
      grid-template-columns: 1fr 1fr;
    }
  }
</style>
