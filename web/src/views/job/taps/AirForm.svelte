<script lang="ts">
  /** Air by hand: the place's air and, where it was touched, the surface of one part. */
  import type { JobPage } from "../../../api/client";
  import { partName } from "../../../lib/actions";
  import { bare, entered, show, unit } from "../../../lib/format";
  import { outbox } from "../../../lib/outbox.svelte";
  import { typed } from "../../../lib/units";
  import { say } from "../../../words";
  import Beside from "../../../ui/Beside.svelte";
  import { field } from "../../../lib/format";
  import type { Read } from "../../../lib/instruments";
  import TapForm from "./TapForm.svelte";

  type Props = { page: JobPage; partId: string; done: () => void };
  let { page, partId, done }: Props = $props();
  let air = $state("");
  let surface = $state("");
  let rh = $state("");
  let wind = $state("");
  let refusal = $state("");
  const part = $derived(page.facts.parts.find((p) => p.id === partId));

  /** What a sensor shows, as if it were typed. */
  function told(read: Read): void {
    if (!("air_degc" in read)) return;
    air = field("degc", read.air_degc, 1);
    rh = String(Math.round(1000 * read.rh_frac) / 10);
  }
  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const [a, s, h] = [entered("degc", air), surface.trim() ? entered("degc", surface) : null, typed(rh, "%") / 100];
    const w = wind.trim() ? entered("m_s", wind) : null;
    const range = (low: number, high: number): string => say.log.expectedANumberFromTo(bare("degc", low, 0), show("degc", high, 0));
    if (!(a >= -40 && a <= 60)) return void (refusal = say.log.airEntered(air, range(-40, 60)));
    if (s !== null && !(s >= -40 && s <= 120)) return void (refusal = say.log.surfaceEnteredOrNothing(surface, range(-40, 120)));
    if (!(h >= 0.01 && h <= 1)) return void (refusal = say.log.humidityEnteredExpected1To(rh));
    if (w !== null && !(w >= 0 && w <= 80)) return void (refusal = say.taps.windEntered(wind, show("m_s", 80, 0)));
    const body = { place_id: part?.place_id, part_id: s === null ? null : partId, air_degc: a, surface_degc: s, rh_frac: h, wind_m_s: w };
    await outbox.add(page.head.id, [{ kind: "climate_read", body }], say.log.airSaved);
    done();
  }
</script>

<TapForm {save} {done} {refusal}>
  <div class="row">
    <label>{say.log.air2(unit("degc"))} <input inputmode="decimal" bind:value={air} /></label>
    <label>{say.taps.surfaceOf(partName(page, partId), unit("degc"))} <input inputmode="decimal" bind:value={surface} /></label>
    <label>{say.log.humidity} <input inputmode="decimal" bind:value={rh} /></label>
    <label>{say.taps.windIfOutside(unit("m_s"))} <input inputmode="decimal" bind:value={wind} /></label>
    <button class="btn small go">{say.common.save}</button>
  </div>
  <Beside kind="climate" take={told} />
</TapForm>
