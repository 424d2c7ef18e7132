<script lang="ts">
  /** Dry film: numbers off the gauge, its file, or the simulated gauge; looked at before they are saved. */
  import { api, inWords, type JobPage, type Schemas } from "../../../api/client";
  import { partName } from "../../../lib/actions";
  import { bare, entered, field, unit } from "../../../lib/format";
  import { readOnce, shopGauge } from "../../../lib/instruments";
  import { outbox } from "../../../lib/outbox.svelte";
  import { session } from "../../../lib/session.svelte";
  import { say } from "../../../words";
  import Beside from "../../../ui/Beside.svelte";
  import TapForm from "./TapForm.svelte";

  type Props = { page: JobPage; partId: string; done: () => void };
  let { page, partId, done }: Props = $props();
  type Group = { name: string; um: number[]; part: string };
  let text = $state("");
  let groups = $state<Group[]>([]);
  let file = $state<Schemas["GaugeFile"] | null>(null);
  let device = $state("");
  let refusal = $state("");
  const parts = $derived(page.facts.parts.filter((p) => !p.retired));

  /** The part a file speaks of, by its name; else the one that is picked. */
  const meant = (name: string): string => parts.find((p) => p.name.toLowerCase() === name.trim().toLowerCase())?.id ?? (name ? "" : partId);
  async function load(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    const chosen = event.currentTarget.files?.[0];
    if (!chosen) return;
    const body = new FormData();
    body.append("file", chosen);
    body.append("unit", session.who?.preferences.units === "us" ? "mil" : "um");
    const { data, error } = await api.POST("/api/gauge-file", { body: body as never, bodySerializer: (b) => b as unknown as FormData });
    refusal = data ? "" : inWords(error);
    if (!data) return;
    file = data;
    device = chosen.name.slice(0, 60);
    groups = data.groups.map((g) => ({ name: g.name, um: g.um, part: meant(g.name) }));
  }
  async function fromShop(): Promise<void> {
    const gauge = shopGauge(page.head.id, partId);
    const { reads, refusal: why } = await readOnce(gauge);
    refusal = why;
    if (why) return;
    device = gauge.name;
    groups = [{ name: "", um: reads.flatMap((read) => ("um" in read ? [read.um] : [])), part: partId }];
  }
  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    let told = groups.filter((g) => g.part).map((g) => ({ part_id: g.part, um: g.um, spot: g.name.slice(0, 60) }));
    if (!groups.length) {
      const um = text
        .trim()
        .split(/[\s;]+/)
        .filter(Boolean)
        .map((t) => entered("um", t));
      if (!um.length) return void (refusal = say.log.expectedOneOrMoreNumbers(unit("um")));
      if (um.some((v) => !(v > 0 && v <= 20000))) return void (refusal = say.log.enteredExpectedNumbersAbove0(text, unit("um")));
      told = [{ part_id: partId, um, spot: "" }];
    }
    if (!told.length) return void (refusal = say.taps.sayWhichPart);
    const facts = told.map((t) => ({ kind: "film_read", body: { ...t, what: "dry_total", device } }));
    await outbox.add(page.head.id, facts, say.log.dftSaved);
    done();
  }
</script>

<TapForm {save} {done} {refusal}>
  {#if !groups.length}
    <div class="row">
      <label>{say.log.dftOn(partName(page, partId), unit("um"))} <input bind:value={text} /></label>
      <label>{say.taps.gaugeFile} <input type="file" accept=".csv,.txt,.tsv,text/csv,text/plain" onchange={load} /></label>
      <button type="button" class="btn small" onclick={fromShop}>{say.taps.readGauge}</button>
      <button class="btn small go">{say.common.save}</button>
    </div>
    <Beside kind="gauge" take={(read) => "um" in read && (text = `${text} ${field("um", read.um, 1)}`.trim())} />
  {:else}
    {#if device}<p class="mute">
        {device}{file && !file.unit_said ? `: ${say.taps.unitNotSaid(file.unit === "mil" ? "mil" : "µm")}` : ""}
      </p>{/if}
    {#each groups as g, i (i)}
      <div class="row">
        <label
          >{g.name || say.taps.readings(g.um.length)}
          <select bind:value={g.part}
            ><option value="">{say.taps.leaveOut}</option>{#each parts as p (p.id)}<option value={p.id}>{p.name}</option>{/each}</select
          ></label
        >
        <p class="num">{g.um.map((x) => bare("um", x)).join(" ")} {unit("um")}</p>
      </div>
    {/each}
    <div class="row">
      <button class="btn small go">{say.common.save}</button>
      <button type="button" class="btn small" onclick={() => ((groups = []), (file = null), (device = ""))}>{say.common.cancel}</button>
    </div>
  {/if}
</TapForm>

<style>
  .num {
    font-size: 18px;
    flex: 3 1 240px;
    overflow-wrap: anywhere;
  }
</style>
