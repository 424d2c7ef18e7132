<script lang="ts">
  /** Parts as they are found: surface, area typed or from a shape, what they must survive, what is broken. */
  import { api, type Schemas } from "../api/client";
  import { type Draft, FACINGS, type PartRow } from "../lib/draft.svelte";
  import { area, field, unit } from "../lib/format";

  import Choices from "./Choices.svelte";

  type Props = { draft: Draft };
  let { draft }: Props = $props();
  let open = $state<number | null>(null);
  let told = $state<Record<number, string>>({});
  const groups = $derived([...new Set(draft.survey?.substrates.map((s) => s.group) ?? [])]);
  const shapeOf = (id: string) => draft.survey?.shapes.find((s) => s.id === id);

  function usualOf(shape: string, m: Schemas["MeasureOut"]): string {
    const q = draft.quantity(shape, m.name);
    return m.usual === null || m.usual === undefined ? "" : q ? field(q, m.usual) : String(m.usual);
  }
  function pickShape(p: PartRow, i: number, id: string): void {
    p.shape = id;
    p.measures = Object.fromEntries((shapeOf(id)?.measures ?? []).map((m) => [m.name, usualOf(id, m)]));
    told[i] = "";
  }
  /** The area of a shape is the server's to say. */
  async function measure(p: PartRow, i: number): Promise<void> {
    const measures = Object.fromEntries(
      Object.entries(p.measures)
        .filter(([, v]) => v.trim())
        .map(([k, v]) => [k, draft.measured(p.shape, k, v)]),
    );
    const wanted =
      shapeOf(p.shape)
        ?.measures.filter((m) => m.usual === null)
        .map((m) => m.name) ?? [];
    if (!wanted.every((n) => Number.isFinite(measures[n]))) return void (told[i] = "");
    const { data, error } = await api.POST("/api/area", { body: { shape: p.shape, measures } });
    told[i] = data
      ? [`${area(data.figure.value)} each`, ...data.doubts].join(". ")
      : ((error as unknown as { detail?: string })?.detail ?? "");
  }
  type Check = Schemas["Check"];
  /** Quick looks that tell something about this surface. */
  function asks(p: PartRow): Check[] {
    const group = draft.survey?.substrates.find((s) => s.id === p.substrate)?.group ?? "";
    return (draft.survey?.checks ?? [])
      .filter((c) => c.groups.includes(group))
      .map((c) => ({ ...c, answers: c.answers.filter((a) => !a.only?.length || a.only.includes(p.substrate)) }))
      .filter((c) => c.answers.length);
  }
  /** What was seen says what surface it is, and stands in its condition. */
  function found(p: PartRow, check: Check, answer: Check["answers"][number]): void {
    if (answer.to) p.substrate = answer.to;
    const others = p.condition.split("; ").filter((x) => x && !check.answers.some((a) => x === `${check.name.toLowerCase()}: ${a.says}`));
    p.condition = [...others, `${check.name.toLowerCase()}: ${answer.says}`].join("; ").slice(0, 120);
  }
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
      >One of the usual things <select value="" onchange={(e) => draft.like(e.currentTarget.value)}>
        <option value="">pick one, its parts are filled in with usual areas: measure yours</option>
        {#each draft.survey?.templates.filter((t) => t.kind === draft.kind || t.kind === "any") ?? [] as t (t.id)}<option value={t.id}
            >{t.name}</option
          >{/each}
      </select></label
    >
  {/if}
  {#each draft.parts as p, i (i)}
    <div class="part">
      <label>Part {i + 1} <input bind:value={p.name} placeholder="Tailgate" /></label>
      {#if p.shape}
        <p class="area"><b>{told[i] || "measure it below"}</b></p>
      {:else}
        <label>Area {unit("m2")} <input inputmode="decimal" bind:value={p.area} /></label>
      {/if}
      <label
        >Surface <select bind:value={p.substrate}>
          {#each groups as g (g)}<optgroup label={g}
              >{#each draft.survey?.substrates.filter((s) => s.group === g) ?? [] as s (s.id)}<option value={s.id}>{s.name}</option
                >{/each}</optgroup
            >{/each}
        </select></label
      >
      <button type="button" class="btn small" aria-expanded={open === i} onclick={() => (open = open === i ? null : i)}
        >Measure, try, damage</button
      >
      <button
        type="button"
        class="btn small"
        disabled={draft.parts.length === 1}
        onclick={() => draft.parts.splice(i, 1)}
        aria-label={`Take part ${i + 1} away`}>Take away</button
      >
    </div>
    {#if open === i}
      <div class="more">
        <label
          >Area from <select value={p.shape} onchange={(e) => pickShape(p, i, e.currentTarget.value)}
            ><option value="">typed</option>{#each draft.survey?.shapes ?? [] as s (s.id)}<option value={s.id}>{s.name}</option
              >{/each}</select
          ></label
        >
        {#each shapeOf(p.shape)?.measures ?? [] as m (m.name)}
          <label
            >{m.words}{draft.quantity(p.shape, m.name) ? `, ${unit(draft.quantity(p.shape, m.name)!)}` : ""}
            <input inputmode="decimal" bind:value={p.measures[m.name]} oninput={() => void measure(p, i)} /></label
          >
        {/each}
        {#if p.shape_text && !p.shape}<p class="wide mute">Measured as {p.shape_text}.</p>{/if}
        <label>How many <input inputmode="numeric" bind:value={p.count} /></label>
        <label class="tick"><input type="checkbox" bind:checked={p.as_set} /> each a part of its own, one tap for all</label>
        <label>Bare patches up to, {unit("mm")} <input inputmode="decimal" bind:value={p.bare} placeholder="none" /></label>
        <label>Condition <input bind:value={p.condition} placeholder="abraded P80" /></label>
        <label class="wide"
          >Damage already there <input bind:value={p.damage} placeholder="crease at the left corner, before any work" /></label
        >
        {#each FACINGS as f (f)}<label
            >Facing {f}, {unit("m2")} <input inputmode="decimal" bind:value={p.faces[f]} oninput={() => (p.faces_assumed = false)} /></label
          >{/each}
        <p class="wide mute">
          {p.faces_assumed
            ? "These are usual shares, assumed: they follow the area you measure."
            : "Faces are optional; if given they add up to the area."}
        </p>
        {#each asks(p) as c (c.id)}
          <div class="wide try">
            <p><b>{c.name}.</b> {c.how}</p>
            <div class="row wrap">
              {#each c.answers as a, i (i)}<button
                  type="button"
                  class="btn small"
                  aria-pressed={p.condition.includes(a.says)}
                  class:go={p.condition.includes(a.says)}
                  onclick={() => found(p, c, a)}>{a.says}</button
                >{/each}
            </div>
          </div>
        {/each}
      </div>
    {/if}
  {/each}
  <div><button type="button" class="btn small" onclick={() => draft.addPart()}>One more part</button></div>
  <Choices title="It must survive" words={draft.survey?.exposures ?? []} picked={draft.survive} {toggle} />
  <details open={draft.features.length > 0 || draft.dark}>
    <summary>Anything it is or hides{draft.features.length ? `: ${draft.features.length} marked` : ""}</summary>
    <div class="row wrap" role="group" aria-label="It is or hides">
      <button type="button" class="btn small" class:go={draft.dark} aria-pressed={draft.dark} onclick={() => (draft.dark = !draft.dark)}
        >a dark colour is wanted</button
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
  .try {
    display: grid;
    gap: 6px;
    font-size: 14px;
  }
  summary {
    font-weight: 640;
    min-height: 36px;
  }
  .row {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .wrap {
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
  .tick {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 44px;
  }
  .tick input {
    width: 24px;
    min-height: 24px;
    flex: none;
  }
  @media (max-width: 1100px) {
    .part,
    .more {
      grid-template-columns: 1fr 1fr;
    }
  }
</style>
