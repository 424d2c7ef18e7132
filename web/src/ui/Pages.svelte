<script lang="ts">
  /** Which page of a list is shown, of how many, and the way to the others; a list that fits says nothing. */
  import { say } from "../words";
  type Props = { of: number; page: number; pages: number; what: string; turn: (page: number) => void };
  let { of, page, pages, what, turn }: Props = $props();
</script>

{#if pages > 1}
  <nav aria-label={say.pages.pagesOf(what)}>
    <button class="btn small" disabled={page <= 1} onclick={() => turn(page - 1)}>{say.pages.previous}</button>
    <span>{say.pages.pageOf(page, pages, of, what)}</span>
    <button class="btn small" disabled={page >= pages} onclick={() => turn(page + 1)}>{say.pages.next}</button>
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
