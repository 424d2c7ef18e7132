<script lang="ts">
  /** The smaller taps (air, abraded, wiped, gauge, defect, note) and the log with its strikes. */
  import type { JobPage } from "../../api/client";
  import { api, inWords } from "../../api/client";
  import { partName, stepDone, tapeOff } from "../../lib/actions";
  import { bare, duration, entered, show, temp, unit, volume, when } from "../../lib/format";
  import { typed } from "../../lib/units";
  import { opened } from "../../lib/opened";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import Afterwards from "./Afterwards.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage; partId: string };
  let { page, partId }: Props = $props();
  type Form = "" | "air" | "gauge" | "defect" | "note" | "strike" | "after";
  let form = $state<Form>("");
  let striking = $state("");
  let text = $state("");
  let air = $state("");
  let surface = $state("");
  let rh = $state("");
  let said = $state("");
  const job = $derived(page.head.id);
  const placeId = $derived(page.facts.parts.find((p) => p.id === partId)?.place_id);

  function open(which: Form): void {
    form = form === which ? "" : which;
    text = "";
    said = "";
  }

  async function saveAir(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const [a, s, h] = [entered("degc", air), surface.trim() ? entered("degc", surface) : null, typed(rh, "%") / 100];
    const range = (low: number, high: number): string => say.log.expectedANumberFromTo(bare("degc", low, 0), show("degc", high, 0));
    if (!(a >= -40 && a <= 60)) return void (said = say.log.airEntered(air, range(-40, 60)));
    if (s !== null && !(s >= -40 && s <= 120)) return void (said = say.log.surfaceEnteredOrNothing(surface, range(-40, 120)));
    if (!(h >= 0.01 && h <= 1)) return void (said = say.log.humidityEnteredExpected1To(rh));
    const body = { place_id: placeId, air_degc: a, surface_degc: s, rh_frac: h };
    await outbox.add(job, [{ kind: "climate_read", body }], say.log.airSaved);
    form = "";
    said = "";
  }
  async function probe(): Promise<void> {
    const { data, error } = await api.POST("/api/weather/{place_id}/probe", { params: { path: { place_id: placeId! } } });
    said = data
      ? say.log.sensorAirSurface(
          data.simulated ? say.common.simulated : "",
          temp(data.air_degc),
          temp(data.surface_degc),
          Math.round(data.rh_frac * 100),
        )
      : inWords(error);
    outbox.taken += 1;
  }
  async function saveText(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!text.trim()) return void (said = form === "gauge" ? say.log.expectedOneOrMoreNumbers(unit("um")) : say.log.enterADescriptionFirst);
    if (form === "gauge") {
      const values = text
        .trim()
        .split(/[\s;]+/)
        .map((t) => entered("um", t));
      if (values.some((v) => !(v > 0 && v <= 100000))) return void (said = say.log.enteredExpectedNumbersAbove0(text, unit("um")));
      await outbox.add(job, [{ kind: "film_read", body: { part_id: partId, what: "dry_total", um: values } }], say.log.dftSaved);
    } else if (form === "defect") {
      await outbox.add(job, [{ kind: "defect", body: { part_id: partId, type: text.trim() } }], say.log.defectSaved);
    } else if (form === "strike") {
      await outbox.add(job, [{ kind: "strike", body: { target_id: striking, reason: text.trim() } }], say.log.voided);
    } else {
      await outbox.add(job, [{ kind: "note", body: { text: text.trim() } }], say.log.noteSaved);
    }
    form = "";
    said = "";
  }
  const WHY: Record<string, string> = { used: say.log.usedUp, died: say.log.wentOff, thrown: say.log.thrownAway };
  /** Only what is about this part; empty: all of it. */
  let shownPart = $state("");
  /** A step as it went on the log: with its check, the step it was and what was found. */
  const looked = (b: Record<string, unknown>, found: string): string =>
    typeof b.check_id === "string"
      ? `${page.works.flatMap((g) => g.steps).find((s) => s.work.key === b.check_id)?.work.name ?? b.step}: ${found}`
      : `${b.step}`;
  /** Whether an entry names the part that is asked for, by itself or by its coats. */
  function isAbout(e: JobPage["log"][number]): boolean {
    if (!shownPart) return true;
    const text = JSON.stringify(e.body);
    const coats = page.state.parts.find((p) => p.part_id === shownPart)?.films.map((f) => f.coat_id) ?? [];
    return text.includes(shownPart) || coats.some((id) => text.includes(id));
  }
  function line(e: JobPage["log"][number]): string {
    const b = e.body as Record<string, unknown>;
    const part = typeof b.part_id === "string" ? ` ${partName(page, b.part_id)}` : "";
    const words: Record<string, string> = {
      pour: say.log.added(String(b.component), typeof b.ml === "number" ? volume(b.ml) : "?"),
      step_done: looked(b, say.common.pass),
      step_failed: looked(b, say.common.fail),
      damage_found: say.log.damage(String(b.text)),
      climate_read: say.log.air(temp(Number(b.air_degc)), Math.round(Number(b.rh_frac) * 100)),
      in_service: say.log.putIntoService,
      inspected: say.log.inspected(b.note ? `: ${b.note}` : ""),
      cleaned: say.log.cleaned,
      touched_up: say.log.touchedUp(b.what ? `: ${b.what}` : ""),
      coat_removed: say.log.removed(String(b.how)),
      overruled: say.log.stopOverridden(String(b.rule_id).replaceAll(/[._]/g, " "), String(b.reason)),
      facts_adopted: `${b.reason || say.log.surveyAndSystem}`,
      note: `"${b.text}"`,
      defect: say.log.defect(String(b.type)),
      strike: say.log.voidWord(String(b.reason)),
      job_ended: `${b.how === "closed" ? say.ending.closed : say.ending.abandoned}${b.reason ? `: ${b.reason}` : ""}`,
      job_reopened: say.ending.reopened,
      corrected: say.ending.corrected(String(b.was) || say.common.none, String(b.now) || say.common.none),
      unmasked: say.log.maskingRemoved(String(b.result)),
    };
    const coats = b.coats as { part_id: string; layer_id: string; n: number }[] | undefined;
    if (coats?.[0]) {
      const sheet = page.facts.layers.find((l) => l.id === coats[0]!.layer_id)?.sheet_id ?? "";
      return say.log.coatStarted(
        coats.length > 1 ? say.log.parts(coats.length) : partName(page, coats[0].part_id),
        `${page.facts.sheets[sheet]?.name ?? ""} ${coats[0].n}`.trim(),
        b.direction ? `, ${b.direction}` : "",
      );
    }
    const ended = b.coat_ids as string[] | undefined;
    if (e.kind === "coat_done" && ended?.[0]) {
      const on = page.state.parts.flatMap((p) => p.films.map((film) => ({ film, id: p.part_id }))).find((x) => x.film.coat_id === ended[0]);
      if (on)
        return say.log.coatDone(
          ended.length > 1 ? say.log.parts(ended.length) : partName(page, on.id),
          `${page.facts.sheets[on.film.sheet_id]?.name ?? ""} ${on.film.n}`,
          on.film.done_at ? duration(on.film.done_at - on.film.started_at) : "",
        );
    }
    const mixed = page.facts.sheets[String(b.sheet_id)]?.name ?? "";
    if (e.kind === "batch_mixed") return say.log.batchMixed(mixed);
    if (e.kind === "batch_closed") return say.log.batchClosed(WHY[String(b.why)] ?? String(b.why));
    const read = (b.um as number[] | undefined) ?? [];
    if (e.kind === "film_read" && read.length) return say.log.gaugeRead(read.map((x) => bare("um", x)).join(", "), unit("um")) + part;
    if (e.kind === "film_read")
      return say.log.gaugeRead(`${bare("um", Number(b.low_um))}–${bare("um", Number(b.high_um))}`, unit("um")) + part;
    if (e.kind === "gate_checked")
      return say.log.tried(String(b.gate).replaceAll("_", " "), b.passed ? say.common.pass : say.common.fail) + part;
    return (words[e.kind] ?? e.kind.replaceAll("_", " ")) + part;
  }
</script>

<section class="entries" aria-label={say.log.logEntries}>
  {#if session.mayWrite}
    <div class="row">
      <button class="btn small" onclick={() => open("air")} aria-expanded={form === "air"}>{say.log.enterAirReadings}</button>
      <button class="btn small" onclick={probe}>{say.common.readSensor}</button>
      <button class="btn small" onclick={() => stepDone(page, partId, "abrade")}>{say.log.sanded(partName(page, partId))}</button>
      <button class="btn small" onclick={() => stepDone(page, partId, "wipe")}>{say.common.wiped}</button>
      <button class="btn small" onclick={() => tapeOff(page, partId, "clean")}>{say.common.maskingRemoved}</button>
      <button class="btn small" onclick={() => open("gauge")} aria-expanded={form === "gauge"}>{say.log.dftReading}</button>
      <button class="btn small" onclick={() => open("defect")} aria-expanded={form === "defect"}>{say.log.defect2}</button>
      <button class="btn small" onclick={() => open("note")} aria-expanded={form === "note"}>{say.common.note}</button>
      <button class="btn small" onclick={() => open("after")} aria-expanded={form === "after"}>{say.afterwards.open}</button>
    </div>
    {#if form === "air"}
      <form onsubmit={saveAir} {@attach opened(() => (form = ""))}>
        <label>{say.log.air2(unit("degc"))} <input inputmode="decimal" bind:value={air} /></label>
        <label>{say.log.surface(unit("degc"))} <input inputmode="decimal" bind:value={surface} /></label>
        <label>{say.log.humidity} <input inputmode="decimal" bind:value={rh} /></label>
        <button class="btn small go">{say.common.save}</button>
      </form>
    {:else if form === "after"}
      <Afterwards {page} {partId} done={() => (form = "")} />
    {:else if form}
      <form onsubmit={saveText} {@attach opened(() => (form = ""))}>
        <label
          >{form === "gauge"
            ? say.log.dftOn(partName(page, partId), unit("um"))
            : form === "defect"
              ? say.log.descriptionOfTheDefect
              : form === "strike"
                ? say.log.reasonForVoidingIt
                : say.common.note} <input bind:value={text} /></label
        >
        <button class="btn small go">{say.common.save}</button>
      </form>
    {/if}
    {#if said}<p role="status">{said}</p>{/if}
  {/if}
  <h2>{say.log.log}</h2>
  {#if page.facts.parts.length > 1}<label class="only"
      >{say.log.only}
      <select bind:value={shownPart}
        ><option value="">{say.log.allParts}</option>{#each page.facts.parts as p (p.id)}<option value={p.id}>{p.name}</option
          >{/each}</select
      ></label
    >{/if}
  <ol>
    {#each page.log.filter(isAbout) as e (e.id)}
      <li class:struck={e.outcome === "struck"}>
        <span class="t">{when(e.at, serverClock.now)}</span><span
          >{line(e)}{e.outcome === "flagged" ? say.log.notCounted(e.reason) : ""}</span
        >
        <span class="mute">{e.actor}</span>
        {#if session.mayWrite && e.outcome === "applied" && e.kind !== "facts_adopted"}
          <button
            aria-label={say.log.voidWord2(line(e))}
            onclick={() => {
              striking = e.id;
              open("strike");
              form = "strike";
            }}>{say.log.voidWord3}</button
          >
        {/if}
      </li>
    {/each}
  </ol>
</section>

<style>
  .entries {
    padding: 10px 16px 24px;
    display: grid;
    gap: 10px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  form {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
    flex: 1 1 110px;
  }
  ol {
    list-style: none;
    font-size: 14px;
  }
  li {
    display: grid;
    grid-template-columns: 78px 1fr auto auto;
    gap: 8px;
    padding: 2px 0;
    border-top: 1px solid var(--rule);
    align-items: center;
  }
  li button {
    font: inherit;
    font-size: 13px;
    background: none;
    border: 0;
    text-decoration: underline;
    cursor: pointer;
    min-height: 32px;
    color: var(--ink2);
  }
  .struck {
    text-decoration: line-through;
    color: var(--ink3);
  }
  .t {
    font-stretch: 84%;
  }
  @media (max-width: 1000px) {
    li button {
      min-height: 44px;
    }
  }
</style>
