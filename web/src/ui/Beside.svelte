<script lang="ts">
  /** An instrument beside the phone: one tap connects it, and what it shows goes into the field. */
  import { onDestroy } from "svelte";
  import { connect, type Instrument, type Kind, type Read, type Way, waysTo } from "../lib/instruments";
  import { say } from "../words";

  type Props = { kind: Kind; take: (read: Read) => void };
  let { kind, take }: Props = $props();
  let instrument = $state.raw<Instrument | null>(null);
  let refusal = $state("");
  const ways = $derived(waysTo(kind));

  async function use(way: Way): Promise<void> {
    refusal = "";
    try {
      instrument = await connect(kind, way);
      await instrument?.listen(take, () => (instrument = null));
    } catch {
      instrument = null;
      refusal = say.instruments.cannotOpen;
    }
  }
  async function letGo(): Promise<void> {
    await instrument?.close();
    instrument = null;
  }
  onDestroy(() => void letGo());
</script>

{#if ways.length}
  <div class="row">
    {#if instrument}<span role="status">{say.instruments.reads(instrument.name || say.instruments.kinds[kind])}</span>
      <button type="button" class="btn small" onclick={letGo}>{say.instruments.letGo}</button>
    {:else}{#each ways as way (way)}<button type="button" class="btn small" onclick={() => use(way)}
          >{say.instruments.connect[way](say.instruments.kinds[kind])}</button
        >{/each}{/if}
    {#if refusal}<span role="alert"><b>{refusal}</b></span>{/if}
  </div>
{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
  }
</style>
