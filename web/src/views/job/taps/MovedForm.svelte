<script lang="ts">
  /** The ticked parts stand somewhere else from now on: one tap on the place. */
  import type { JobPage } from "../../../api/client";
  import { partName } from "../../../lib/actions";
  import { serverClock } from "../../../lib/clock.svelte";
  import { outbox } from "../../../lib/outbox.svelte";
  import { session } from "../../../lib/session.svelte";
  import { timeTyped } from "../../../lib/times";
  import { say } from "../../../words";

  type Props = { page: JobPage; parts: string[]; done: () => void };
  let { page, parts, done }: Props = $props();
  /** When it was carried; empty: now. */
  let since = $state("");
  let refusal = $state("");
  const here = $derived(page.state.parts.find((p) => p.part_id === parts[0])?.place_id);
  const places = $derived(session.places.filter((x) => x.id !== here));
  const names = $derived(parts.length > 1 ? say.log.parts(parts.length) : partName(page, parts[0] ?? ""));

  async function move(id: string, name: string): Promise<void> {
    const at = timeTyped(since, serverClock.now);
    if (at !== null && !(at <= serverClock.now)) return void (refusal = say.taps.movedLater);
    const fact = { kind: "moved", body: { part_ids: parts, place_id: id }, ...(at === null ? {} : { at }) };
    await outbox.add(page.head.id, [fact], say.taps.movedTo(names, name));
    done();
  }
</script>

<div class="moved" role="group" aria-label={say.taps.whereTo}>
  <b>{say.taps.whereTo}</b>
  <div class="row">
    {#each places as x (x.id)}<button class="btn small go" onclick={() => move(x.id, x.name)}>{x.name}</button>{/each}
  </div>
  <label>{say.taps.movedWhen} <input type="datetime-local" bind:value={since} /></label>
  {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
  {#if !places.length}<p class="mute">{say.taps.noOtherPlace}</p>{/if}
  <p class="mute">{say.taps.movedHint}</p>
</div>

<style>
  .moved {
    display: grid;
    gap: 8px;
    padding: 8px 0;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
</style>
