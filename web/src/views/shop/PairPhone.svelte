<script lang="ts">
  /** A phone signs in by a code on this screen: no password is typed with gloves on. */
  import { api, inWords, type Schemas } from "../../api/client";
  import Code from "../../figures/Code.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { stopwatch } from "../../lib/format";
  import { say } from "../../words";

  let shown = $state.raw<Schemas["PairingOut"] | null>(null);
  let refusal = $state("");
  const left = $derived(shown ? shown.until_at - serverClock.now : 0);

  async function show(): Promise<void> {
    const { data, error } = await api.POST("/api/pairing");
    [shown, refusal] = [data ?? null, data ? "" : inWords(error)];
  }
</script>

<div class="pair">
  <button class="btn" onclick={show}>{say.devices.pair}</button>
  {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
  {#if shown && left > 0}
    <Code rows={shown.rows} label={say.devices.code} />
    <p>{say.devices.pointCamera(stopwatch(left))}</p>
    {#if shown.address.startsWith("https:")}<p class="mute">
        {say.devices.trust} <a class="line" href={`${shown.address}authority.crt`} download>{say.devices.certificate}</a>
      </p>{/if}
  {:else if shown}<p class="mute">{say.devices.codeOver}</p>{/if}
</div>

<style>
  .pair {
    display: grid;
    gap: 8px;
    justify-items: start;
  }
</style>
