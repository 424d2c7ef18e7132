<script lang="ts">
  /** The job as it grows: each part as wide as its area, what is damaged on it dotted in, its layers on top. */
  import type { Draft, PartRow, SystemRow } from "../lib/draft.svelte";
  import { area, entered } from "../lib/format";
  import { surveyWords } from "../lib/survey.svelte";
  import { say } from "../words";

  let { draft }: { draft: Draft } = $props();
  const count = (p: PartRow): number => Math.max(1, Math.round(Number(p.count) || 1));
  const m2 = (p: PartRow): number => {
    const typed = entered("m2", p.area);
    return typed > 0 ? typed * count(p) : 0;
  };
  const most = $derived(Math.max(0.01, ...draft.parts.map(m2)));
  /** From a sixth of the width to all of it: a badge beside a hull is still seen. */
  const width = (p: PartRow): number => 16 + 84 * Math.sqrt(m2(p) / most);
  const spots = (p: PartRow): number => (draft.hurt(p) ? Math.min(12, Math.max(1, Math.round(Number(p.places) || 1))) : 0);
  const names = (s: SystemRow): string[] => s[s.chosen].map((l) => `${l.coats} × ${draft.sheet(l.sheet_id)?.name ?? ""}`);
</script>

<figure aria-label={say.newSteps.picture}>
  {#each draft.systems as s, i (s.key)}
    <div class="group">
      {#if draft.systems.length > 1}<p class="mute">{say.systemForm.systemOf(i + 1, draft.systemName(s))}</p>{/if}
      {#each names(s).toReversed() as name, k (k)}<div class="layer">{name}</div>{/each}
      {#each draft.partsOf(s) as p (p.key)}
        <div class="part" style:width={`${width(p)}%`}>
          <b>{p.name.trim() || say.common.part}{count(p) > 1 ? ` × ${count(p)}` : ""}</b>
          <span>{surveyWords.surface(p.substrate)}{m2(p) ? `, ${area(m2(p))}` : ""}</span>
          {#if spots(p)}<span class="spots" aria-hidden="true">{"● ".repeat(spots(p))}</span>{/if}
        </div>
      {/each}
    </div>
  {/each}
</figure>

<style>
  figure {
    margin: 0;
    display: grid;
    gap: 14px;
  }
  .group {
    display: grid;
    gap: 3px;
  }
  .layer {
    border: 1px solid var(--edge);
    background: var(--lift);
    padding: 2px 8px;
    font-size: 14px;
    font-weight: 620;
  }
  .part {
    border-top: 6px solid var(--ink);
    background: var(--lift);
    padding: 4px 8px 6px;
    display: grid;
    font-size: 14px;
    min-width: 130px;
  }
  .spots {
    letter-spacing: 0.3em;
    font-size: 12px;
  }
</style>
