<script lang="ts">
  /** What kind of thing it is, and the usual ones of it to begin from: one tap fills in parts, surfaces and wishes. */
  import type { Draft } from "../lib/draft.svelte";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";

  /** `fresh`: nothing stands yet that a usual thing would take the place of. */
  type Props = { draft: Draft; fresh: boolean };
  let { draft, fresh }: Props = $props();
  let taken = $state("");
  const things = $derived(draft.survey?.templates.filter((t) => t.kind === draft.kind || t.kind === "any") ?? []);
  const KINDS: [string, string][] = [
    ["road", say.newJob.roadVehicle],
    ["vessel", say.newJob.boat],
    ["aircraft", say.newJob.aircraft],
  ];
  /** What the shop works on comes first. */
  const kinds = $derived(KINDS.toSorted((a, b) => rank(a[0]) - rank(b[0])));
  const rank = (kind: string): number => {
    const at = session.who?.works_on.indexOf(kind) ?? -1;
    return at < 0 ? KINDS.length : at;
  };
  function take(id: string): void {
    taken = id;
    draft.like(id);
  }
</script>

<div class="usual">
  <div class="row" role="group" aria-label={say.newJob.type}>
    {#each kinds as [id, name] (id)}<button
        type="button"
        class="btn small"
        class:go={draft.kind === id}
        aria-pressed={draft.kind === id}
        onclick={() => (draft.kind = id)}>{name}</button
      >{/each}
  </div>
  {#if fresh}
    <b>{say.newSteps.usual}</b>
    <div class="row" role="group" aria-label={say.newSteps.usual}>
      {#each things as t (t.id)}<button
          type="button"
          class="btn small"
          class:go={taken === t.id}
          aria-pressed={taken === t.id}
          onclick={() => take(t.id)}>{t.name}</button
        >{/each}
    </div>
  {/if}
</div>

<style>
  .usual {
    display: grid;
    gap: 8px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
  .row .btn {
    padding: 0 10px;
    font-size: 14px;
  }
</style>
