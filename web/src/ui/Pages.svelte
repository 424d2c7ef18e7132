<script lang="ts">
  /** Which page of a list is shown, of how many, and the way to the others; a list that fits says nothing. */
  type Props = { of: number; page: number; pages: number; what: string; turn: (page: number) => void };
  let { of, page, pages, what, turn }: Props = $props();
</script>

{#if pages > 1}
  <nav aria-label={`Pages of ${what}`}>
    <button class="btn small" disabled={page <= 1} onclick={() => turn(page - 1)}>Back</button>
    <span>Page {page} of {pages}, {of} {what}</span>
    <button class="btn small" disabled={page >= pages} onclick={() => turn(page + 1)}>On</button>
  </nav>
{/if}

<style>
  nav {
    display: flex;
    gap: 14px;
    align-items: center;
    padding: 8px 0;
    font-size: 15px;
  }
</style>
