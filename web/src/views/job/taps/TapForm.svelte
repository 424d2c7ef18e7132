<script lang="ts">
  /** A small form under the taps: its fields in rows, what was refused below, Escape closes it. */
  import type { Snippet } from "svelte";
  import { opened } from "../../../lib/opened";

  type Props = { save?: (event: SubmitEvent) => unknown; done: () => void; refusal?: string; children: Snippet };
  // Without a deed of its own the form has none: its buttons do what they say.
  let { save = (event) => event.preventDefault(), done, refusal = "", children }: Props = $props();
</script>

<form onsubmit={save} novalidate {@attach opened(done)}>
  {@render children()}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
</form>

<style>
  form {
    display: grid;
    gap: 10px;
  }
  form :global(.row) {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: end;
  }
  form :global(label) {
    font-weight: 640;
    font-size: 14px;
    flex: 1 1 110px;
  }
  form :global(label input),
  form :global(label select) {
    margin-top: 4px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
