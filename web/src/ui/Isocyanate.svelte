<script lang="ts">
  /** Isocyanate: the mask it wants, or, for who must not meet it, that somebody else does this. */
  import { session } from "../lib/session.svelte";
  import { say } from "../words";
</script>

<p class="ppe" class:away={session.who?.sensitised} role={session.who?.sensitised ? "alert" : undefined}>
  <b>{say.common.isocyanate}</b>
  {session.who?.sensitised ? say.ask.keptAway : say.common.airFedMaskOnSkin}
</p>

<style>
  .ppe {
    border: 2px solid var(--ink);
    padding: 8px 10px;
    font-size: 15px;
  }
  .away {
    background: var(--ink);
    color: var(--on-ink);
    font-weight: 640;
  }
</style>
