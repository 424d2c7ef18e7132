<script lang="ts">
  /** A form on the left; what it comes to on the right, which stays in sight. */
  import type { Snippet } from "svelte";
  import { opened } from "../lib/opened";

  type Props = { submit: (event: SubmitEvent) => void; sideLabel: string; form: Snippet; side: Snippet; leave?: () => void };
  /** `leave`: it was opened on a page, and closes without being kept. */
  let { submit, sideLabel, form, side, leave }: Props = $props();
</script>

<form class="page" onsubmit={submit} novalidate {@attach leave && opened(leave)}>
  <section class="left">{@render form()}</section>
  <section class="right" aria-label={sideLabel}>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="stay" tabindex="0">{@render side()}</div>
  </section>
</form>

<style>
  .page {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 480px;
    flex: 1;
  }
  .left {
    padding: 16px 24px;
    display: grid;
    gap: 12px;
    align-content: start;
  }
  .right {
    background: var(--field);
    border-left: 2px solid var(--ink);
    padding: 20px;
  }
  .stay {
    display: grid;
    gap: 12px;
    align-content: start;
    position: sticky;
    top: 12px;
    max-height: calc(100vh - 24px);
    overflow-y: auto;
  }
  @media (max-width: 1000px) {
    .page {
      grid-template-columns: 1fr;
    }
    .right {
      border-left: 0;
    }
  }
</style>
