<script lang="ts">
  /** Isocyanate: the mask it wants, asked and logged; or, for who must not meet it, that somebody else does this. */
  import { crew, type Breathing } from "../lib/crew.svelte";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";

  /** `asks`: before the coat; while it goes on there is no hand for it. */
  type Props = { asks?: boolean };
  let { asks = true }: Props = $props();
  const away = $derived(Boolean(session.who?.sensitised) && !crew.painter);
  const MASKS: [Breathing, string][] = [
    ["air_fed", say.ask.airFedOn],
    ["cartridge", say.ask.cartridgeOnly],
  ];
</script>

<div class="ppe" class:away role={away ? "alert" : undefined}>
  <p><b>{say.common.isocyanate}</b> {away ? say.ask.keptAway : asks ? say.common.airFedMaskOnSkin : say.ask.maskOn}</p>
  {#if asks && !away && session.mayWrite}
    <div class="row" role="group" aria-label={say.ask.whatMask}>
      {#each MASKS as [id, word] (id)}<button
          class="btn small"
          class:go={crew.breathing === id}
          aria-pressed={crew.breathing === id}
          onclick={() => crew.say({ breathing: crew.breathing === id ? null : id })}>{word}</button
        >{/each}
    </div>
    {#if crew.breathing === "cartridge"}<p role="alert"><b>{say.ask.cartridgeNotEnough}</b></p>{/if}
  {/if}
</div>

<style>
  .ppe {
    border: 2px solid var(--ink);
    padding: 8px 10px;
    font-size: 15px;
    display: grid;
    gap: 6px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .away {
    background: var(--ink);
    color: var(--on-ink);
    font-weight: 640;
  }
</style>
