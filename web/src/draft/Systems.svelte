<script lang="ts">
  /** The coating systems of a job that has more than one: which is being edited, what each gets, and which share a mix. */
  import { api, type Schemas } from "../api/client";
  import type { Draft, SystemRow } from "../lib/draft.svelte";
  import { say } from "../words";

  /** `offers`: it also asks what would go on each group. */
  type Props = { draft: Draft; offers?: boolean };
  let { draft, offers = false }: Props = $props();
  type Offer = Schemas["SuggestOut"];
  let told = $state.raw<Record<number, Offer>>({});
  let busy = $state(false);

  async function askAll(): Promise<void> {
    busy = true;
    const out: Record<number, Offer> = {};
    for (const s of draft.systems) {
      if (!s.wanted.length) continue;
      const body = { parts: draft.rough(s), wanted: s.wanted, place_id: draft.place || null, asset_kind: draft.kind };
      const { data } = await api.POST("/api/suggest", { body });
      if (data) out[s.key] = data;
    }
    told = out;
    busy = false;
  }
  const bestOf = (s: SystemRow) => told[s.key]?.best[0];
  const named = (layers: Schemas["LayerIn"][]): string => layers.map((l) => draft.sheet(l.sheet_id)?.name ?? "").join(", ");
  function said(s: SystemRow): string {
    const best = bestOf(s);
    if (best) return named(best.layers);
    if (told[s.key]) return say.systemForm.noOffer;
    return draft.words(s.chosen, s) || (s.wanted.length ? say.systemForm.nothingYet : say.systemForm.noWish);
  }
  function takeAll(): void {
    for (const s of draft.systems) {
      const best = bestOf(s);
      if (best) draft.take(s.chosen, best, s);
    }
    told = {};
  }
  /** Materials in more than one of the systems, each once, with where else. */
  const shared = $derived(
    draft.systems.flatMap((s, i) =>
      s[s.chosen].flatMap((l) => {
        const others = draft.sharedWith(l.sheet_id, s).filter((o) => draft.systems.indexOf(o) > i);
        const name = draft.sheet(l.sheet_id)?.name ?? "";
        return others.length ? [say.systemForm.shared(name, [s, ...others].map((o) => draft.systemName(o)).join(say.common.and))] : [];
      }),
    ),
  );
</script>

{#if draft.systems.length > 1}
  <div class="row" role="group" aria-label={say.systemForm.systems}>
    {#each draft.systems as s, i (s.key)}
      <button type="button" class="btn small" class:go={draft.at === i} aria-pressed={draft.at === i} onclick={() => (draft.at = i)}
        >{say.systemForm.systemOf(i + 1, draft.systemName(s))}</button
      >
    {/each}
  </div>
  {#if offers}
    <dl aria-label={say.systemForm.all}>
      {#each draft.systems as s (s.key)}<dt>{draft.systemName(s)}</dt>
        <dd>{said(s)}</dd>{/each}
    </dl>
    {#each [...new Set(shared)] as line (line)}<p class="mute">{line}</p>{/each}
    <div class="row">
      <button type="button" class="btn small" disabled={busy} onclick={askAll}
        >{busy ? say.systemForm.asking : say.systemForm.forAll}</button
      >
      {#if draft.systems.some(bestOf)}<button type="button" class="btn small go" onclick={takeAll}>{say.systemForm.takeAll}</button>{/if}
    </div>
  {/if}
{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 2px 12px;
    margin: 0;
    font-size: 14px;
  }
  dt {
    color: var(--ink2);
  }
  dd {
    margin: 0;
    font-weight: 620;
  }
</style>
