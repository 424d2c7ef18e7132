<script lang="ts">
  /** Heat on the ticked parts, and how warm their surface gets; or off again. */
  import type { JobPage } from "../../../api/client";
  import { bare, entered, show, unit } from "../../../lib/format";
  import { outbox } from "../../../lib/outbox.svelte";
  import { say } from "../../../words";
  import TapForm from "./TapForm.svelte";

  type Props = { page: JobPage; parts: string[]; done: () => void };
  let { page, parts, done }: Props = $props();
  let degrees = $state("");
  let refusal = $state("");
  const isOn = $derived(parts.some((id) => page.state.parts.find((p) => p.part_id === id)?.heat_degc != null));

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const degc = entered("degc", degrees);
    if (!(degc >= 0 && degc <= 120)) return void (refusal = say.taps.heatEntered(degrees, bare("degc", 0, 0), show("degc", 120, 0)));
    const body = { part_ids: parts, on: true, surface_degc: degc };
    await outbox.add(page.head.id, [{ kind: "heat_set", body }], say.taps.heatOn(show("degc", degc, 0)));
    done();
  }
  async function off(): Promise<void> {
    await outbox.add(page.head.id, [{ kind: "heat_set", body: { part_ids: parts, on: false } }], say.taps.heatOff);
    done();
  }
</script>

<TapForm {save} {done} {refusal}>
  <div class="row">
    <label>{say.taps.surfaceGets(unit("degc"))} <input inputmode="decimal" bind:value={degrees} /></label>
    <button class="btn small go">{say.taps.heatIsOn}</button>
    <button type="button" class="btn small" disabled={!isOn} onclick={off}>{say.taps.heatOff}</button>
  </div>
  <p class="mute">{say.taps.heatHint}</p>
</TapForm>
