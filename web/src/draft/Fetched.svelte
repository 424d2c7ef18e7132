<script lang="ts">
  /** Says that what a form is made of has not come, and asks once more. */
  import type { Draft } from "../lib/draft.svelte";
  import { say } from "../words";

  let { draft }: { draft: Draft } = $props();
</script>

{#if draft.problem}
  <p role="alert">
    <b>{draft.problem}</b>
    <button type="button" class="btn small" onclick={() => void draft.fetch()}>{say.revise.tryAgain}</button>
  </p>
{/if}

<style>
  p {
    padding: 10px 24px;
    border-left: 6px solid var(--ink);
    background: var(--lift);
  }
</style>
