<script lang="ts">
  /** The can's own values in place of the typical ones: a new sheet, used by jobs started from now on. */
  import { api, inWords, type Schemas, type Sheet } from "../../api/client";
  import { entered, field, unit } from "../../lib/format";
  import { opened } from "../../lib/opened";
  import { typed } from "../../lib/units";
  import PurposeForm from "./PurposeForm.svelte";
  import { say } from "../../words";

  type Props = { sheet: Sheet; done: (said: string) => void };
  let { sheet, done }: Props = $props();
  const minutes = (s: number | null | undefined): string => (s == null ? "" : String(Math.round(s / 6) / 10));
  // What is on the shelf is where the typing starts; the form is made anew for each sheet.
  // svelte-ignore state_referenced_locally
  const start = sheet;
  const own = start.recoat.find((r) => r.next === "same")?.windows[0];
  let name = $state(start.name);
  let parts = $state(
    start.components.map((c) => ({
      role: c.role,
      of: c.of,
      name: c.name,
      parts: String(c.parts),
      solids: String(Math.round(c.solids_frac * 1000) / 10),
      density: String(c.density_g_per_ml),
    })),
  );
  let film = $state({
    min: field("um", start.film?.dry_um_min),
    max: field("um", start.film?.dry_um_max),
    total: field("um", start.film?.total_max_um),
    coats: String(start.film?.coats_max ?? ""),
  });
  let coverage = $state(field("m2", start.coverage?.m2_per_l));
  let pot = $state({ min: minutes(start.pot?.[0]?.s), at: field("degc", start.pot?.[0]?.at_degc) });
  let again = $state({ from: minutes(own?.from_s), to: minutes(own?.to_s) });
  let points = $state(start.points.map((p) => ({ gate: p.gate, at: field("degc", p.at_degc), hours: String(Math.round(p.s / 36) / 100) })));
  let timesFor = $state(field("um", start.points.find((p) => p.at_um)?.at_um));
  let aid = $state({
    covers: field("m2", start.aid?.covers_m2),
    dwell: minutes(start.aid?.dwell_s),
    grit: start.aid?.grit ? String(start.aid.grit) : "",
  });
  let limits = $state({
    low: field("degc", start.limits?.surface_min_degc),
    high: field("degc", start.limits?.surface_max_degc),
    rh: String(Math.round((start.limits?.rh_max_frac ?? 0.85) * 100)),
  });
  let purpose = $state<Schemas["Purpose"]>(structuredClone(start.purpose ?? { role: "one_coat" }) as Schemas["Purpose"]);
  let hot = $state(field("degc", start.purpose?.temp_max_degc));
  let refusal = $state("");
  let busy = $state(false);

  /** A number of a field, or a refusal that names it. */
  function number(label: string, text: string, value: number): number {
    if (!Number.isFinite(value)) throw new Error(say.sheetForm.enteredExpectedANumber(label, text));
    return value;
  }
  const seconds = (label: string, text: string): number => Math.round(number(label, text, typed(text, "min")) * 60);

  function document(): Record<string, unknown> {
    const doc = structuredClone($state.snapshot(start)) as Record<string, unknown> & Sheet;
    doc.name = name.trim();
    doc.grade = "sheet";
    doc.components = start.components.map((c, i) => ({
      ...c,
      parts: number(say.sheetForm.partsOf(c.name), parts[i]!.parts, typed(parts[i]!.parts)),
      solids_frac: number(say.sheetForm.solidsOf(c.name), parts[i]!.solids, typed(parts[i]!.solids, "%")) / 100,
      density_g_per_ml: number(say.sheetForm.densityOf(c.name), parts[i]!.density, typed(parts[i]!.density, "g/ml")),
    }));
    if (start.film)
      doc.film = {
        dry_um_min: number(say.sheetForm.lowestDftPerCoat, film.min, entered("um", film.min)),
        dry_um_max: number(say.sheetForm.highestDftPerCoat, film.max, entered("um", film.max)),
        total_max_um: number(say.sheetForm.highestTotalDft, film.total, entered("um", film.total)),
        coats_max: number(say.sheetForm.mostCoats, film.coats, typed(film.coats)),
      };
    const at_um = timesFor.trim() ? number(say.sheetForm.timesFor, timesFor, entered("um", timesFor)) : null;
    if (start.coverage) doc.coverage = { ...start.coverage, m2_per_l: number(say.common.coverage, coverage, entered("m2", coverage)) };
    if (start.pot?.length)
      doc.pot = [
        {
          ...start.pot[0]!,
          s: seconds(say.common.potLife, pot.min),
          at_degc: number(say.sheetForm.potLifeAt, pot.at, entered("degc", pot.at)),
        },
      ];
    doc.recoat = start.recoat.map((r) =>
      r.next !== "same"
        ? r
        : {
            ...r,
            windows: r.windows.map((w, i) =>
              i
                ? w
                : {
                    ...w,
                    from_s: seconds(say.sheetForm.recoatFrom, again.from),
                    to_s: again.to.trim() ? seconds(say.sheetForm.recoatUntil, again.to) : null,
                  },
            ),
          },
    );
    doc.recoat = doc.recoat.map((r) => ({ ...r, windows: r.windows.map((w) => ({ ...w, at_um })) }));
    doc.points = start.points.map((p, i) => ({
      ...p,
      at_um,
      at_degc: number(say.sheetForm.at(p.gate), points[i]!.at, entered("degc", points[i]!.at)),
      s: Math.round(number(say.sheetForm.after(p.gate), points[i]!.hours, typed(points[i]!.hours, "h")) * 3600),
    }));
    if (start.aid)
      doc.aid = {
        ...start.aid,
        covers_m2: number(say.common.coverage, aid.covers, entered("m2", aid.covers)),
        dwell_s: seconds(say.common.dwellTime, aid.dwell),
        grit: aid.grit.trim() ? number(say.common.grit, aid.grit, typed(aid.grit)) : null,
      };
    else
      doc.limits = {
        ...start.limits!,
        surface_min_degc: number(say.sheetForm.lowestSurfaceTemperature, limits.low, entered("degc", limits.low)),
        surface_max_degc: number(say.sheetForm.highestSurfaceTemperature, limits.high, entered("degc", limits.high)),
        rh_max_frac: number(say.common.humidity, limits.rh, typed(limits.rh, "%")) / 100,
      };
    if (!start.aid) {
      const said = $state.snapshot(purpose);
      said.temp_max_degc = hot.trim() ? number(say.purpose.hottest(unit("degc")), hot, entered("degc", hot)) : null;
      doc.purpose = said;
    }
    return doc;
  }
  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    let body: Record<string, unknown>;
    try {
      body = document();
    } catch (e) {
      return void (refusal = (e as Error).message); // the field that is no number
    }
    busy = true;
    const { data, error } = await api.POST("/api/sheets", { body });
    busy = false;
    refusal = data ? "" : inWords(error);
    if (data) done(say.sheetForm.productDataSavedExistingJobs(data.sheet.name));
  }
  const GATES: Record<string, string> = {
    unmask_from: say.sheetForm.unmaskFrom,
    unmask_to: say.sheetForm.unmaskUntil,
    immerse_from: say.sheetForm.immerseFrom,
    immerse_to: say.sheetForm.immerseUntil,
    full: say.sheetForm.fullCure,
    use: say.common.inUse,
  };
</script>

<form onsubmit={keep} novalidate {@attach opened(() => done(""))}>
  <h3>{say.sheetForm.productDataFor(sheet.name)}</h3>
  <div class="grid">
    <label class="two">{say.common.nameLabel} <input bind:value={name} /></label>
    {#each parts as p, i (i)}
      <label
        >{p.name}, {p.of === "ratio" ? say.sheetForm.parts : say.sheetForm.shareOfThe(p.of)}
        <input inputmode="decimal" bind:value={p.parts} /></label
      >
      <label>{say.sheetForm.solidsByVolume} <input inputmode="decimal" bind:value={p.solids} /></label>
      <label>{say.sheetForm.densityGMl} <input inputmode="decimal" bind:value={p.density} /></label>
    {/each}
    {#if sheet.film}
      <label>{say.sheetForm.lowestDftPerCoat2(unit("um"))} <input inputmode="decimal" bind:value={film.min} /></label>
      <label>{say.sheetForm.highestDftPerCoat2(unit("um"))} <input inputmode="decimal" bind:value={film.max} /></label>
      <label>{say.sheetForm.highestTotalDft2(unit("um"))} <input inputmode="decimal" bind:value={film.total} /></label>
      <label>{say.sheetForm.mostCoats} <input inputmode="numeric" bind:value={film.coats} /></label>
      <label
        >{say.sheetForm.timesForDft(unit("um"))}
        <input inputmode="decimal" bind:value={timesFor} placeholder={say.sheetForm.anyFilm} /></label
      >
    {:else if sheet.aid}
      <label>{say.sheetForm.coveragePer(sheet.aid.unit, unit("m2"))} <input inputmode="decimal" bind:value={aid.covers} /></label>
      <label>{say.sheetForm.dwellTimeMin} <input inputmode="decimal" bind:value={aid.dwell} /></label>
      <label>{say.sheetForm.gritFepaP} <input inputmode="numeric" bind:value={aid.grit} placeholder={say.common.none} /></label>
    {:else}
      <label>{say.sheetForm.oneLitreCovers(unit("m2"))} <input inputmode="decimal" bind:value={coverage} /></label>
    {/if}
    {#if sheet.pot?.length}
      <label>{say.sheetForm.potLifeMin} <input inputmode="decimal" bind:value={pot.min} /></label>
      <label>{say.sheetForm.at2(unit("degc"))} <input inputmode="decimal" bind:value={pot.at} /></label>
    {/if}
    {#if own}
      <label>{say.sheetForm.recoatFromMin} <input inputmode="decimal" bind:value={again.from} /></label>
      <label>{say.sheetForm.recoatUntilMin} <input inputmode="decimal" bind:value={again.to} placeholder={say.common.noLimit} /></label>
    {/if}
    {#each points as p, i (i)}
      <label>{say.sheetForm.h(GATES[p.gate] ?? p.gate)} <input inputmode="decimal" bind:value={p.hours} /></label>
      <label>{say.sheetForm.at2(unit("degc"))} <input inputmode="decimal" bind:value={p.at} /></label>
    {/each}
    {#if !sheet.aid}
      <label>{say.sheetForm.lowestSurfaceTemperature2(unit("degc"))} <input inputmode="decimal" bind:value={limits.low} /></label>
      <label>{say.sheetForm.highest(unit("degc"))} <input inputmode="decimal" bind:value={limits.high} /></label>
      <label>{say.sheetForm.highestHumidity} <input inputmode="decimal" bind:value={limits.rh} /></label>
    {/if}
  </div>
  {#if !start.aid}<PurposeForm bind:purpose bind:hot />{/if}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <div class="row">
    <button class="btn small go" disabled={busy}>{say.sheetForm.saveProductData}</button><button
      type="button"
      class="btn small"
      onclick={() => done("")}>{say.common.cancel}</button
    >
  </div>
  <p class="mute">
    {say.sheetForm.otherValuesFamilyHazardsRecoating}
  </p>
</form>

<style>
  form {
    grid-column: 1 / -1;
    display: grid;
    gap: 10px;
    background: var(--field);
    padding: 14px;
    border-left: 6px solid var(--ink);
  }
  .grid {
    display: grid;
    grid-template-columns: repeat(6, 1fr);
    gap: 10px;
    align-items: end;
  }
  .two {
    grid-column: span 2;
  }
  label {
    font-weight: 620;
    font-size: 13.5px;
  }
  .row {
    display: flex;
    gap: 10px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 900px) {
    .grid {
      grid-template-columns: 1fr 1fr;
    }
  }
</style>
