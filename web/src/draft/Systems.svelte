<script lang="ts">
  /** Which of the job's coating systems is being edited, where it has more than one. */
  import type { Draft } from "../lib/draft.svelte";
  import { say } from "../words";

  type Props = { draft: Draft };
  let { draft }: Props = $props();
</script>

{#if draft.systems.length > 1}
  <div class="row" role="group" aria-label={say.systemForm.systems}>
    {#each draft.systems as s, i (s.key)}
      <button type="button" class="btn small" class:go={draft.at === i} aria-pressed={draft.at === i} onclick={() => (draft.at = i)}
        >{say.systemForm.systemOf(i + 1, draft.systemName(s))}</button
      >
    {/each}
  </div>
{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
  }
</style>
