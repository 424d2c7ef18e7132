<script lang="ts">
  /** The smaller taps, for any parts that are ticked: steps, air, heat, film, edges, defects, coats more or fewer. */
  import { type JobPage } from "../../../api/client";
  import { partName, stepDone } from "../../../lib/actions";
  import { temp } from "../../../lib/format";
  import { readOnce, shopSensor } from "../../../lib/instruments";
  import { outbox } from "../../../lib/outbox.svelte";
  import { say } from "../../../words";
  import Afterwards from "../Afterwards.svelte";
  import AirForm from "./AirForm.svelte";
  import CoatsForm from "./CoatsForm.svelte";
  import GaugeForm from "./GaugeForm.svelte";
  import HeatForm from "./HeatForm.svelte";
  import MovedForm from "./MovedForm.svelte";
  import UnmaskForm from "./UnmaskForm.svelte";
  import WordsForm from "./WordsForm.svelte";

  type Props = { page: JobPage; partId: string };
  let { page, partId }: Props = $props();
  type Form = "" | "moved" | "air" | "heat" | "gauge" | "unmask" | "defect" | "note" | "coats" | "after";
  let form = $state<Form>("");
  let said = $state("");
  /** Ticked by hand; nothing: the part the page is about. */
  let ticked = $state<string[]>([]);
  const parts = $derived(page.facts.parts.filter((p) => !p.retired));
  const chosen = $derived(ticked.length ? ticked : [partId]);
  const first = $derived(chosen[0] ?? partId);
  const placeId = $derived(page.facts.parts.find((p) => p.id === first)?.place_id);
  const FORMS: [Form, string][] = [
    ["air", say.log.enterAirReadings],
    ["moved", say.taps.moved],
    ["heat", say.taps.heat],
    ["gauge", say.log.dftReading],
    ["unmask", say.common.maskingRemoved],
    ["defect", say.log.defect2],
    ["note", say.taps.noteOrPhoto],
    ["coats", say.taps.moreOrFewer],
    ["after", say.afterwards.open],
  ];

  const close = (): void => {
    form = "";
  };
  function tick(id: string): void {
    const now = ticked.length ? ticked : [partId];
    ticked = now.includes(id) ? now.filter((x) => x !== id) : [...now, id];
  }
  async function probe(): Promise<void> {
    const sensor = shopSensor(placeId!, say.common.simulated);
    const { reads, refusal } = await readOnce(sensor);
    const read = reads[0];
    said = refusal;
    if (read && "air_degc" in read)
      said = say.log.sensorAirSurface(sensor.name, temp(read.air_degc), temp(read.surface_degc!), Math.round(read.rh_frac * 100));
    outbox.taken += 1;
  }
  const names = $derived(chosen.length > 1 ? say.log.parts(chosen.length) : partName(page, first));
</script>

{#if parts.length > 1}
  <div class="row parts" role="group" aria-label={say.taps.forParts}>
    <b>{say.taps.forParts}</b>
    {#each parts as p (p.id)}<button
        class="btn small"
        class:go={chosen.includes(p.id)}
        aria-pressed={chosen.includes(p.id)}
        onclick={() => tick(p.id)}>{p.name}</button
      >{/each}
  </div>
{/if}
<div class="row">
  <button class="btn small" onclick={() => stepDone(page, chosen, "abrade")}>{say.log.sanded(names)}</button>
  <button class="btn small" onclick={() => stepDone(page, chosen, "wipe")}>{say.common.wiped}</button>
  <button class="btn small" onclick={probe}>{say.common.readSensor}</button>
  {#each FORMS as [id, word] (id)}<button
      class="btn small"
      aria-expanded={form === id}
      onclick={() => ((form = form === id ? "" : id), (said = ""))}>{word}</button
    >{/each}
</div>
{#if form === "air"}<AirForm {page} partId={first} done={close} />
{:else if form === "heat"}<HeatForm {page} parts={chosen} done={close} />
{:else if form === "moved"}<MovedForm {page} parts={chosen} done={close} />
{:else if form === "gauge"}<GaugeForm {page} partId={first} done={close} />
{:else if form === "unmask"}<UnmaskForm {page} parts={chosen} done={close} />
{:else if form === "coats"}<CoatsForm {page} parts={chosen} done={close} />
{:else if form === "after"}<Afterwards {page} partId={first} done={close} />
{:else if form === "defect" || form === "note"}{#key form}<WordsForm {page} parts={chosen} kind={form} done={close} />{/key}{/if}
{#if said}<p role="status">{said}</p>{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .parts {
    align-items: center;
  }
</style>
