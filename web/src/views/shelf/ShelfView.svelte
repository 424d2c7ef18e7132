<script lang="ts">
  /** Shelf: the sheets of the shop, each value as the sheet has it, and what the shop pays. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { bare, duration, kelvin, percent, setup, show, um, unit, volume } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { typed } from "../../lib/units";
  import SheetForm from "./SheetForm.svelte";
  import { say } from "../../words";

  const told = new Answer<Schemas["SheetOut"][]>();
  const sheets = $derived(told.data);
  /** Why a file or a price was not taken. */
  let refusal = $state("");
  let said = $state("");
  let q = $state("");
  let prices = $state<Record<string, string>>({});
  async function load(): Promise<void> {
    const come = await told.ask(() => api.GET("/api/shelf", { params: { query: { aids: true } } }));
    // A price that is being typed outlives a sheet that comes in.
    for (const s of come ?? [])
      for (const p of [...(s.sheet.packs ?? []), ...(s.sheet.aid?.packs ?? [])])
        prices[`${s.sheet.material_id}/${p.name}`] ??= String(s.prices[p.name] ?? "");
  }
  $effect(() => void load());
  const UNITS: Record<string, string> = { l: say.materials.litre, m: say.materials.metre, m2: say.materials.squareMetre };
  const NEXT: Record<string, string> = { same: say.materials.itself, any: say.materials.otherMaterials };
  const shown = $derived(
    (sheets ?? [])
      .filter((s) => `${s.sheet.name} ${s.sheet.kind}`.toLowerCase().includes(q.toLowerCase()))
      .toSorted((a, b) => Number(Boolean(a.sheet.aid)) - Number(Boolean(b.sheet.aid))),
  );
  const firstAid = $derived(shown.find((s) => s.sheet.aid)?.sheet.id ?? "");

  let editing = $state("");
  let files = $state<FileList>();
  async function takeIn(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const file = files?.[0];
    said = "";
    if (!file) return void (refusal = say.materials.chooseAFileFirstA);
    const body = new FormData();
    body.append("file", file);
    const path = file.name.toLowerCase().endsWith(".csv") ? "/api/sheets/table" : "/api/sheets/import";
    const { data, error } = await api.POST(path, { body: body as never, bodySerializer: (b) => b as unknown as FormData });
    refusal = data ? "" : inWords(error);
    if (!data) return;
    await load();
    said = Array.isArray(data) ? say.materials.dataSheetsImported(data.length) : say.materials.imported(data.sheet.name);
  }
  async function addTypical(): Promise<void> {
    const { data, error } = await api.POST("/api/sheets/typical");
    refusal = data ? "" : inWords(error);
    if (!data) return;
    if (data.length) await load();
    said = data.length
      ? say.materials.typicalSheetsAdded(data.length, data.map((s) => s.sheet.name).join(", "))
      : say.materials.allTypicalMaterialsAreListed;
  }
  async function edited(text: string): Promise<void> {
    editing = "";
    if (text) await load();
    said = text;
  }
  async function keep(material_id: string, pack: string): Promise<void> {
    const text = prices[`${material_id}/${pack}`] ?? "";
    const amount = text.trim() ? typed(text) : null;
    said = "";
    if (amount !== null && !(amount >= 0 && amount <= 1e6))
      return void (refusal = say.materials.priceOfEnteredExpectedAn(pack, text, session.who?.currency ?? ""));
    const { error } = await api.PUT("/api/prices", { body: { material_id, pack, amount } });
    refusal = error ? inWords(error) : "";
    if (!error) said = amount === null ? say.materials.priceOfRemoved(pack) : `${pack}: ${amount} ${session.who?.currency}.`;
  }
</script>

<div class="page">
  <div class="ttl">
    <h1>{say.common.materials}</h1>
    <label class="search"
      ><span class="sr">{say.materials.searchMaterials}</span><input
        type="search"
        bind:value={q}
        placeholder={say.materials.primerPeelableAntifouling}
      /></label
    >
  </div>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {#if told.problem}<p class="refusal" role="alert"><b>{told.problem}</b></p>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  {#if sheets && !shown.length}<p>{say.materials.noMaterialFound}</p>{/if}
  {#each shown as s (s.sheet.id)}
    {#if s.sheet.id === firstAid}<h2 class="aids">{say.common.consumables}</h2>{/if}
    <section>
      <div>
        <h2>{s.sheet.name}</h2>
        <p class="mute">{s.sheet.kind}</p>
        <p class="grade">{s.sheet.grade === "typical" ? say.materials.typicalValuesTheProductsData : say.common.fromTheDataSheet}</p>
        <p class="acts">
          {#if session.who?.role === "owner"}<button
              class="btn small"
              aria-expanded={editing === s.sheet.id}
              onclick={() => (editing = editing === s.sheet.id ? "" : s.sheet.id)}>{say.materials.enterProductData}</button
            >{/if}
          <a class="line" href={`/api/sheets/${s.sheet.id}`} download>{say.materials.downloadJson}</a>
        </p>
        {#if s.sheet.claim}<p class="mute">{say.materials.claimedLife(s.sheet.claim.text || duration(s.sheet.claim.life_s))}</p>{/if}
      </div>
      {#if s.sheet.aid}
        <dl>
          <dt>{say.common.forLabel}</dt>
          <dd>{s.sheet.aid.serves.map((x) => x.replaceAll("_", " ")).join(", ")}</dd>
          <dt>{say.common.coverage}</dt>
          <dd>
            {say.materials.oneDoesAbout(
              UNITS[s.sheet.aid.unit] ?? s.sheet.aid.unit,
              show("m2", s.sheet.aid.covers_m2, s.sheet.aid.covers_m2 < 1 ? 3 : 0),
              s.sheet.grade === "typical" ? say.materials.assumedUntilTheShopEnters : "",
            )}
          </dd>
          {#if s.sheet.aid.grit}<dt>{say.common.grit}</dt>
            <dd>{say.materials.pFepa(s.sheet.aid.grit)}</dd>{/if}
          {#if s.sheet.aid.dwell_s}<dt>{say.common.dwellTime}</dt>
            <dd>{duration(s.sheet.aid.dwell_s)}</dd>{/if}
          {#if s.sheet.aid.never_on?.length}<dt>{say.materials.neverOn}</dt>
            <dd>{s.sheet.aid.never_on.map((x) => x.replaceAll("_", " ")).join(", ")}</dd>{/if}
        </dl>
      {:else}
        <dl>
          <dt>{say.common.mix}</dt>
          <dd>
            {s.sheet.components.length === 1
              ? s.sheet.components[0]?.name.toLowerCase()
              : s.sheet.components
                  .map(
                    (c) =>
                      `${c.name.toLowerCase()} ${c.of === "ratio" ? c.parts : say.materials.of(Math.round(c.parts * 1000) / 10, c.of)}`,
                  )
                  .join(" : ")}{s.sheet.components.length > 1 ? say.materials.by(s.sheet.components[0]?.by ?? "") : ""}
          </dd>
          {#if s.sheet.film}
            <dt>{say.materials.solids}</dt>
            <dd>{say.materials.byVolume(percent(s.solids_frac))}</dd>
            <dt>{say.materials.filmPerCoat}</dt>
            <dd>
              {say.materials.toDryCoatAtMost(
                bare("um", s.sheet.film.dry_um_min),
                um(s.sheet.film.dry_um_max),
                s.sheet.properties.coats_exact
                  ? say.materials.exactly(s.sheet.properties.coats_exact)
                  : say.materials.upTo(s.sheet.film.coats_max),
                um(s.sheet.film.total_max_um),
              )}
            </dd>
          {:else if s.sheet.coverage}
            <dt>{say.materials.filmPerCoat}</dt>
            <dd>
              {say.materials.noFilmBuildFrom(
                show("m2", s.sheet.coverage.m2_per_l, 0),
                volume(1000),
                s.sheet.coverage.coats_min === s.sheet.coverage.coats_max
                  ? say.materials.coats(s.sheet.coverage.coats_max)
                  : say.materials.toCoats(s.sheet.coverage.coats_min, s.sheet.coverage.coats_max),
              )}
            </dd>
          {/if}
          <dt>{say.materials.appliedBy}</dt>
          <dd>
            {s.method_name}{#each s.sheet.setups ?? [] as x, i (i)}<br />{setup(x)}{/each}
          </dd>
          <dt>{say.common.potLife}</dt>
          <dd>
            {s.sheet.pot?.length
              ? s.sheet.pot.map((p) => say.materials.at(duration(p.s), show("degc", p.at_degc, 0))).join(", ")
              : say.common.none}
          </dd>
          <dt>{say.materials.recoat}</dt>
          <dd>
            {s.sheet.recoat
              .map(
                (r) =>
                  `${NEXT[r.next] ?? r.next.replace("family:", "").replace("_", " ")}: ${r.windows.map((w) => say.materials.to(w.tacky ? say.materials.whileTacky : "", duration(w.from_s), w.to_s ? duration(w.to_s) : say.common.noLimit)).join(", ")}`,
              )
              .join("; ")}
          </dd>
          <dt>{say.materials.conditions}</dt>
          <dd>
            {say.materials.toUpToAboveDew(
              bare("degc", s.sheet.limits?.surface_min_degc ?? 10, 0),
              show("degc", s.sheet.limits?.surface_max_degc ?? 35, 0),
              percent(s.sheet.limits?.rh_max_frac ?? 0.85),
              kelvin(s.sheet.limits?.dew_margin_k ?? 3),
            )}
          </dd>
        </dl>
      {/if}
      <div class="side">
        {#each s.sheet.packs ?? [] as p, i (i)}
          {@const key = `${s.sheet.material_id}/${p.name}`}
          <form
            onsubmit={(e) => {
              e.preventDefault();
              void keep(s.sheet.material_id, p.name);
            }}
          >
            <label
              >{say.materials.makes(p.name, volume(p.makes_ml), session.who?.currency ?? "")}<input
                inputmode="decimal"
                bind:value={prices[key]}
                disabled={session.who?.role !== "owner"}
                placeholder={say.materials.noPrice}
              /></label
            >
            {#if session.who?.role === "owner"}<button class="btn small" aria-label={say.materials.saveThePriceOf(s.sheet.name, p.name)}
                >{say.common.save}</button
              >{/if}
          </form>
        {/each}
        {#each s.sheet.aid?.packs ?? [] as p, i (i)}
          {@const key = `${s.sheet.material_id}/${p.name}`}
          <form
            onsubmit={(e) => {
              e.preventDefault();
              void keep(s.sheet.material_id, p.name);
            }}
          >
            <label
              >{p.name}, {session.who?.currency}<input
                inputmode="decimal"
                bind:value={prices[key]}
                disabled={session.who?.role !== "owner"}
                placeholder={say.materials.noPrice}
              /></label
            >
            {#if session.who?.role === "owner"}<button class="btn small" aria-label={say.materials.saveThePriceOf(s.sheet.name, p.name)}
                >{say.common.save}</button
              >{/if}
          </form>
        {/each}
        {#each s.sheet.hazards ?? [] as h, i (i)}<p class="haz">{h}</p>{/each}
      </div>
      {#if editing === s.sheet.id}<SheetForm sheet={s.sheet} done={(text) => void edited(text)} />{/if}
    </section>
  {/each}
  {#if session.who?.role === "owner"}<form onsubmit={takeIn}>
      <label>{say.materials.importDataSheetsJsonOr} <input type="file" accept=".json,.csv,application/json,text/csv" bind:files /></label
      ><button class="btn small">{say.common.importWord}</button>
    </form>{/if}
  {#if session.who?.role === "owner"}<p>
      <button class="btn small" onclick={addTypical}>{say.materials.addMissingTypicalMaterials}</button>
    </p>{/if}
  <p><a class="line" href="/api/sheets/table" download>{say.materials.exportAllCsv}</a></p>
  <p class="mute">{say.materials.filmInTypicalValuesDescribe(unit("um"))}</p>
</div>

<style>
  .page {
    padding: 16px 24px;
    display: grid;
    gap: 4px;
    align-content: start;
  }
  .ttl {
    display: flex;
    gap: 20px;
    align-items: center;
    margin-bottom: 8px;
  }
  .search {
    flex: 1;
    max-width: 420px;
  }
  h1 {
    font-size: 34px;
  }
  section {
    display: grid;
    grid-template-columns: 210px 1fr 340px;
    gap: 20px;
    border-top: 2px solid var(--edge);
    padding: 12px 0;
    font-size: 14.5px;
  }
  dl {
    display: grid;
    grid-template-columns: 84px 1fr;
    gap: 3px 10px;
    align-content: start;
  }
  dt {
    color: var(--ink2);
  }
  .aids {
    font-size: 24px;
    padding-top: 18px;
  }
  .acts {
    display: flex;
    gap: 12px;
    align-items: center;
    margin: 6px 0;
    flex-wrap: wrap;
  }
  .grade {
    margin-top: 6px;
    font-weight: 680;
    font-size: 13.5px;
  }
  .haz {
    border-left: 4px solid var(--ink);
    padding-left: 8px;
    margin-bottom: 6px;
  }
  form {
    display: flex;
    gap: 8px;
    align-items: end;
    margin-bottom: 8px;
  }
  form label {
    flex: 1;
    font-size: 13.5px;
    font-weight: 620;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 900px) {
    section {
      grid-template-columns: 1fr;
    }
    .page {
      padding: 12px 16px;
    }
  }
</style>
