<script lang="ts">
  /** One part as it is found: surface, area typed or from a shape, quick looks, what is broken. */
  import { api, type Schemas } from "../api/client";
  import { Answer } from "../lib/answer.svelte";
  import { type Draft, FACINGS, type PartRow } from "../lib/draft.svelte";
  import { area, entered, field, unit } from "../lib/format";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";
  import Choices from "./Choices.svelte";

  /** `n`: which part it is, from 1.  `drop` takes it away; null: it is the only one. */
  type Props = { draft: Draft; p: PartRow; n: number; open: boolean; toggle: () => void; drop: (() => void) | null };
  let { draft, p, n, open, toggle, drop }: Props = $props();
  /** What may take longer than one goes on for at a stretch. */
  const LARGE_M2 = 8;
  const groups = $derived([...new Set(draft.survey?.substrates.map((s) => s.group) ?? [])]);
  const shapeOf = (id: string) => draft.survey?.shapes.find((s) => s.id === id);

  function usualOf(shape: string, m: Schemas["MeasureOut"]): string {
    const q = draft.quantity(shape, m.name);
    return m.usual === null || m.usual === undefined ? "" : q ? field(q, m.usual) : String(m.usual);
  }
  function pickShape(id: string): void {
    p.shape = id;
    p.measures = Object.fromEntries((shapeOf(id)?.measures ?? []).map((m) => [m.name, usualOf(id, m)]));
    figure.forget();
  }
  /** The measures as they stand, or null while one that nobody can guess is missing. */
  const measures = $derived.by((): Record<string, number> | null => {
    const shape = shapeOf(p.shape);
    if (!shape) return null;
    const given = Object.entries(p.measures)
      .map(([k, v]): [string, number] => [k, v.trim() ? draft.measured(p.shape, k, v) : NaN])
      .filter(([, value]) => Number.isFinite(value));
    const have = Object.fromEntries(given);
    return shape.measures.every((m) => m.usual !== null || m.name in have) ? have : null;
  });
  /** The area of a shape is the server's to say. */
  const figure = new Answer<Schemas["AreaOut"]>();
  $effect(() => {
    if (!measures) return figure.forget();
    const body = { shape: p.shape, measures };
    void figure.ask(() => api.POST("/api/area", { body }));
  });
  const said = $derived(
    figure.problem || (figure.data && measures ? [say.part.each(area(figure.data.figure.value)), ...figure.data.doubts].join(". ") : ""),
  );
  type Check = Schemas["Check"];
  /** Quick looks that tell something about this surface. */
  const asks = $derived.by((): Check[] => {
    const group = draft.survey?.substrates.find((s) => s.id === p.substrate)?.group ?? "";
    return (draft.survey?.checks ?? [])
      .filter((c) => c.groups.includes(group))
      .map((c) => ({ ...c, answers: c.answers.filter((a) => !a.only?.length || a.only.includes(p.substrate)) }))
      .filter((c) => c.answers.length);
  });
  /** What was seen says what surface it is, and stands in its condition. */
  function found(check: Check, answer: Check["answers"][number]): void {
    if (answer.to) p.substrate = answer.to;
    const others = p.condition.split("; ").filter((x) => x && !check.answers.some((a) => x === `${check.name.toLowerCase()}: ${a.says}`));
    p.condition = [...others, `${check.name.toLowerCase()}: ${answer.says}`].join("; ").slice(0, 120);
  }
</script>

<div class="part">
  <label>{say.part.part(n)} <input bind:value={p.name} placeholder={say.part.tailgate} /></label>
  {#if p.shape}
    <p class="area"><b>{said || say.part.enterTheMeasurementsBelow}</b></p>
  {:else}
    <label>{say.part.area(unit("m2"))} <input inputmode="decimal" bind:value={p.area} /></label>
  {/if}
  <label
    >{say.common.surface}
    <select bind:value={p.substrate}>
      {#each groups as g (g)}<optgroup label={g}
          >{#each draft.survey?.substrates.filter((s) => s.group === g) ?? [] as s (s.id)}<option value={s.id}>{s.name}</option
            >{/each}</optgroup
        >{/each}
    </select></label
  >
  <button type="button" class="btn small" aria-expanded={open} onclick={toggle}>{say.part.measureTestDamage}</button>
  <button type="button" class="btn small" disabled={drop === null} onclick={() => drop?.()} aria-label={say.part.removePart(n)}
    >{say.common.remove}</button
  >
</div>
{#if open}
  <div class="more">
    {#if draft.parts.length > 1}<label
        >{say.part.system}
        <select value={String(p.system)} onchange={(e) => draft.move(p, Number(e.currentTarget.value))}>
          {#each draft.systems as s, i (s.key)}<option value={String(s.key)}>{say.part.withOthers(i + 1, draft.systemName(s))}</option
            >{/each}
          {#if draft.parts.some((x) => x !== p && x.system === p.system)}<option value="0">{say.part.ownSystem}</option>{/if}
        </select></label
      >{/if}
    <label
      >{say.part.howToGetTheArea}
      <select value={p.shape} onchange={(e) => pickShape(e.currentTarget.value)}
        ><option value="">{say.part.enterItDirectly}</option>{#each draft.survey?.shapes ?? [] as s (s.id)}<option value={s.id}
            >{s.name}</option
          >{/each}</select
      ></label
    >
    {#each shapeOf(p.shape)?.measures ?? [] as m (m.name)}
      <label
        >{m.words}{draft.quantity(p.shape, m.name) ? `, ${unit(draft.quantity(p.shape, m.name)!)}` : ""}
        <input inputmode="decimal" bind:value={p.measures[m.name]} /></label
      >
    {/each}
    {#if p.shape_text && !p.shape}<p class="wide mute">{say.part.measuredAs(p.shape_text)}</p>{/if}
    <label>{say.part.quantity} <input inputmode="numeric" bind:value={p.count} /></label>
    {#if p.count.trim() !== "1"}<label
        >{say.part.worked}
        <select value={p.as_set ? "each" : "pass"} onchange={(e) => (p.as_set = e.currentTarget.value === "each")}
          ><option value="each">{say.part.eachLogged}</option><option value="pass">{say.part.inOnePass}</option></select
        ></label
      >{/if}
    {#if !p.shape && entered("m2", p.area) >= LARGE_M2}<label
        >{say.part.cut}
        <select value="" onchange={(e) => draft.cut(p, Number(e.currentTarget.value))}
          ><option value="">{say.part.inOne}</option>{#each [2, 3, 4, 6, 8] as n (n)}<option value={String(n)}
              >{say.part.sections(n)}</option
            >{/each}</select
        ></label
      >{/if}
    {#if session.places.length > 1}<label
        >{say.part.stands}
        <select bind:value={p.place}
          ><option value="">{say.part.whereTheJobDoes}</option>{#each session.places as x (x.id)}<option value={x.id}>{x.name}</option
            >{/each}</select
        ></label
      >{/if}
    <label>{say.part.edge(unit("m"))} <input inputmode="decimal" bind:value={p.edge} placeholder={say.part.asASquare} /></label>
    <label
      >{say.part.largestBareMetalSpot(unit("mm"))} <input inputmode="decimal" bind:value={p.bare} placeholder={say.common.none} /></label
    >
    {#if draft.survey?.substrates.find((s) => s.id === p.substrate)?.group === "paint"}<label
        >{say.part.filmThere(unit("um"))} <input inputmode="decimal" bind:value={p.there} placeholder={say.part.notMeasured} /></label
      >{/if}
    {#if p.features.includes("holes")}<label>{say.part.largestHole(unit("mm"))} <input inputmode="decimal" bind:value={p.hole} /></label
      >{/if}
    {#if draft.hurt(p)}<label
        >{say.part.places}
        <input
          inputmode="numeric"
          bind:value={p.places}
          placeholder={p.id && draft.pins[p.id] ? say.part.pins(draft.pins[p.id]!) : "1"}
        /></label
      >{/if}
    <label>{say.common.condition} <input bind:value={p.condition} placeholder={say.part.sandedP80} /></label>
    <label class="wide">{say.common.existingDamage} <input bind:value={p.damage} placeholder={say.common.creaseAtTheLeftCorner} /></label>
    {#each FACINGS as f (f)}<label
        >{say.part.areaFacing(f, unit("m2"))}
        <input inputmode="decimal" bind:value={p.faces[f]} oninput={() => (p.faces_assumed = false)} /></label
      >{/each}
    <p class="wide mute">
      {p.faces_assumed ? say.part.typicalSharesAssumedTheyFollow : say.part.optionalIfYouEnterThem}
    </p>
    {#if draft.parts.length > 1}
      <div class="wide">
        <Choices
          title={say.part.thisPartHasToWithstand}
          words={draft.survey?.exposures ?? []}
          picked={p.survive}
          toggle={(id) => draft.tick(p, "survive", id, !p.survive.includes(id))}
        />
      </div>
      <div class="wide">
        <Choices
          title={say.part.thisPartIsOrHides}
          words={draft.featuresAsked({ all: p.features, some: [] })}
          picked={p.features}
          toggle={(id) => draft.tick(p, "features", id, !p.features.includes(id))}
        />
      </div>
    {/if}
    {#each asks as c (c.id)}
      <div class="wide try">
        <p><b>{c.name}{c.name.endsWith("?") ? "" : "."}</b> {c.how}</p>
        <div class="row">
          {#each c.answers as a (a.says)}<button
              type="button"
              class="btn small"
              aria-pressed={p.condition.includes(a.says)}
              class:go={p.condition.includes(a.says)}
              onclick={() => found(c, a)}>{a.says}</button
            >{/each}
        </div>
      </div>
    {/each}
  </div>
{/if}

<style>
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .try {
    display: grid;
    gap: 6px;
    font-size: 14px;
  }
  .row {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
  .part {
    display: grid;
    grid-template-columns: 1.2fr 100px 1.9fr auto auto;
    gap: 10px;
    align-items: end;
  }
  .area {
    min-height: 44px;
    display: flex;
    align-items: center;
  }
  .more {
    display: grid;
    grid-template-columns: repeat(4, 1fr);
    gap: 10px;
    align-items: end;
    padding: 12px;
    background: var(--field);
    border-left: 6px solid var(--ink);
  }
  .wide {
    grid-column: 1 / -1;
  }
  @media (max-width: 1100px) {
    .part,
    .more {
      grid-template-columns: 1fr 1fr;
    }
  }
</style>
