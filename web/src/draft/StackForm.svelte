<script lang="ts">
  /** Two stacks side by side, judged as they are built; one is chosen, the other kept with its reason. */
  import { Answer } from "../lib/answer.svelte";
  import { api, type Finding, inReadersWords, type Schemas } from "../api/client";
  import type { Draft, LayerRow, Side } from "../lib/draft.svelte";
  import { unit } from "../lib/format";
  import Suggest from "./Suggest.svelte";
  import Systems from "./Systems.svelte";
  import { say } from "../words";

  type Verdicts = { findings: Finding[]; summary: Schemas["Summary"] | null };
  /** `unasked`: see Suggest. */
  type Props = { draft: Draft; told: Record<Side, Verdicts>; unasked?: boolean };
  let { draft, told = $bindable(), unasked = false }: Props = $props();
  let side = $state<Side>("a");
  let pick = $state("");
  let others = $state.raw<LayerRow | null>(null);
  type OnShelf = Schemas["SheetOut"];
  const shelf = $derived(draft.shelf.toSorted((x, y) => x.sheet.kind.localeCompare(y.sheet.kind)));
  /** Whether its sheet names what it would lie on: the surface, or the layer on top so far. */
  function fits(s: OnShelf): boolean {
    const purpose = s.sheet.purpose;
    const below = draft.sheet(draft[side].at(-1)?.sheet_id ?? "");
    if (!purpose) return false;
    if (below) return (purpose.over ?? []).some((f) => f.replace(/[^a-z0-9_]/g, "") === below.properties.family);
    return draft.partsOf().every((p) => (purpose.goes_on ?? []).includes(p.substrate));
  }
  /** Products of one kind on the shelf: the same family for the same purpose. */
  const sameKind = (sheet: OnShelf["sheet"] | undefined): OnShelf[] =>
    sheet ? draft.shelf.filter((s) => s.sheet.properties.family === sheet.properties.family && s.sheet.kind === sheet.kind) : [];
  /** What fits first, then the others by what they are for. */
  const groups = $derived.by(() => {
    const ROLES = say.roles as Record<string, string>;
    const here = shelf.filter(fits);
    const rest = shelf.filter((s) => !here.includes(s));
    const by: Record<string, OnShelf[]> = {};
    for (const s of rest) (by[s.sheet.purpose?.role ?? ""] ??= []).push(s);
    return [
      { label: say.systemForm.fitsHere, sheets: here },
      ...Object.keys(ROLES).map((role) => ({ label: ROLES[role]!, sheets: by[role] ?? [] })),
      { label: say.systemForm.roleUnknown, sheets: by[""] ?? [] },
    ].filter((g) => g.sheets.length);
  });
  /** How many damages are pinned on the pictures of its parts, as text; empty: none. */
  function pinned(): string {
    const n = draft.partsOf().reduce((sum, p) => sum + (Number(p.places) || draft.pins[p.id ?? ""] || 0), 0);
    return n ? String(n) : "";
  }

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
  <Systems {draft} offers />
  <div class="row" role="group" aria-label={say.systemForm.optionBeingEdited}>
    {#each ["a", "b"] as const as s (s)}
      <button type="button" class="btn small" class:go={side === s} aria-pressed={side === s} onclick={() => (side = s)}
        >{s === "a" ? say.common.optionA : say.common.optionB}{draft[s].length ? `, ${draft[s].length}` : ""}</button
      >
    {/each}
    <span class="mute">{say.systemForm.inTheOrderTheyAre}</span>
  </div>
  {#if asked[side].problem}<p class="mute">{say.systemForm.notChecked(asked[side].problem)}</p>{/if}
  <Suggest {draft} {side} {unasked} />
  {#if draft.prep[side]}<p>
      {say.systemForm.surfacePreparation} <b>{draft.prepWords(side)}</b>.
      <button type="button" class="btn small" onclick={() => (draft.prep[side] = "")}>{say.systemForm.noExtraPreparation}</button>
    </p>{/if}
  <label class="check"><input type="checkbox" bind:checked={draft.planSteps} /> {say.systemForm.includePreparationAndMaskingIn}</label>
  {#each draft[side] as l, i (i)}
    {@const sheet = draft.sheet(l.sheet_id)}
    <div class="layer">
      <p><span><b>{i + 1}. {sheet?.name}</b>{sheet?.grade === "typical" ? say.systemForm.typicalValues : ""}</span></p>
      {#if sameKind(sheet).length > 1}<label class="brand"
          >{say.systemForm.product}
          <select bind:value={l.sheet_id}
            >{#each sameKind(sheet) as s (s.sheet.id)}<option value={s.sheet.id}>{s.sheet.name}</option>{/each}</select
          ></label
        >{/if}
      <label>{say.common.coats} <input inputmode="numeric" value={l.coats} oninput={(e) => draft.recoat(l, e.currentTarget.value)} /></label
      >
      {#if sheet?.film}<label>{say.systemForm.totalDft(unit("um"))} <input inputmode="decimal" bind:value={l.um} /></label>{:else}<p
          class="mute"
        >
          {say.common.noFilmBuild}
        </p>{/if}
      <label class="check"
        ><input
          type="checkbox"
          checked={Boolean(l.patches)}
          onchange={(e) => (l.patches = e.currentTarget.checked ? { n: pinned() || "1", across: "", area: "", along: "" } : null)}
        />
        {say.systemForm.onPatches}</label
      >
      {#if l.patches}
        <div class="patches">
          <label>{say.systemForm.patches} <input inputmode="numeric" bind:value={l.patches.n} /></label>
          <label
            >{say.systemForm.along(unit("m"))}
            <input inputmode="decimal" bind:value={l.patches.along} placeholder={say.systemForm.aPatch} /></label
          >
          <label
            >{l.patches.along.trim() ? say.systemForm.wide(unit("mm")) : say.systemForm.acrossEach(unit("mm"))}
            <input inputmode="decimal" bind:value={l.patches.across} /></label
          >
          {#if !l.patches.along.trim()}<label
              >{say.systemForm.orArea(unit("m2"))} <input inputmode="decimal" bind:value={l.patches.area} /></label
            >{/if}
        </div>
      {/if}
      {#if others === l}
        <div class="patches others" role="group" aria-label={say.systemForm.coatsOn(sheet?.name ?? "")}>
          {#each draft.partsOf() as p (p.key)}<label
              >{p.name || say.common.part}
              <input
                inputmode="numeric"
                value={l.coats_on?.[p.key] ?? ""}
                placeholder={l.coats}
                oninput={(e) => (l.coats_on = { ...l.coats_on, [p.key]: e.currentTarget.value })}
              /></label
            >{/each}
        </div>
      {/if}
      <div class="row deeds">
        {#if draft.partsOf().length > 1 && !l.patches}<button
            type="button"
            class="btn small"
            aria-expanded={others === l}
            onclick={() => (others = others === l ? null : l)}
            >{say.systemForm.otherCoats(Object.values(l.coats_on ?? {}).filter((n) => n.trim() && n !== l.coats).length)}</button
          >{/if}
        {#if !l.patches}<button type="button" class="btn small" onclick={() => draft.addStrip(side, i)}>{say.systemForm.strip}</button>{/if}
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
    </div>
  {/each}
  <div class="row">
    <label class="grow"
      >{say.systemForm.addALayer}
      <select bind:value={pick}
        ><option value="">{say.systemForm.chooseAMaterial}</option>{#each groups as g (g.label)}<optgroup label={g.label}
            >{#each g.sheets as s (s.sheet.id)}<option value={s.sheet.id}>{s.sheet.name}, {inReadersWords(s.sheet.kind)}</option
              >{/each}</optgroup
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
    grid-template-columns: minmax(0, 1fr) 90px 150px auto;
    gap: 10px;
    align-items: end;
  }
  .patches {
    grid-column: 1 / -1;
    display: grid;
    grid-template-columns: 90px repeat(3, 150px);
    gap: 10px;
    align-items: end;
  }
  .others {
    grid-template-columns: repeat(auto-fill, minmax(120px, 1fr));
  }
  .brand {
    grid-column: 1 / -1;
  }
  .deeds {
    grid-column: 1 / -1;
    border-bottom: 1px solid var(--rule);
    padding-bottom: 10px;
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
