<script lang="ts">
  /** Ten seconds to take the last tap back. The entry is in the log already; taking back is a strike. */
  import { serverClock } from "../lib/clock.svelte";
  import { outbox } from "../lib/outbox.svelte";
  import { say } from "../words";

  type Props = { jobId: string | null };
  let { jobId }: Props = $props();
  const left = $derived(outbox.last ? outbox.last.at + 10 - serverClock.now : 0);
</script>

{#if outbox.last && left > 0}
  <div class="undo">
    <span role="status">{outbox.last.text}.</span>
    <button class="btn small" onclick={() => outbox.undo(jobId)}>{say.undo.undoS(left)}</button>
  </div>
{/if}

<style>
  .undo {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 12px;
    padding: 4px 16px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
    min-height: 52px;
  }
</style>
