<script lang="ts">
  /** Shelf: the sheets of the shop, each value as the sheet has it, and what the shop pays. */
  import { api, inReadersWords, inWords, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { bare, um, unit } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { typed } from "../../lib/units";
  import LabelForm from "./LabelForm.svelte";
  import SheetDetail from "./SheetDetail.svelte";
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
  const words = $derived(q.toLowerCase().split(/\s+/).filter(Boolean));
  const shown = $derived(
    (sheets ?? []).filter(
      (s) =>
        (!only || s.group === only) &&
        words.every((w) => `${s.sheet.name} ${s.sheet.kind} ${inReadersWords(s.sheet.kind)} ${s.method_name}`.toLowerCase().includes(w)),
    ),
  );
  const GROUPS = ["primer", "filler", "colour", "peelable", "liner", "protection", "underbody", "antifouling", "parts", "aid"] as const;
  let only = $state("");
  /** Which are shown in full. */
  let open = $state<string[]>([]);
  const turn = (id: string): void => void (open = open.includes(id) ? open.filter((x) => x !== id) : [...open, id]);
  /** What a coat leaves, or how far it goes. */
  const film = (s: Schemas["SheetOut"]): string =>
    s.sheet.film
      ? say.materials.dryFilm(bare("um", s.sheet.film.dry_um_min), um(s.sheet.film.dry_um_max))
      : s.sheet.aid
        ? ""
        : say.common.noFilmBuild;

  let labelling = $state(false);
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
    <label class="one"
      ><span class="sr">{say.materials.kinds}</span><select bind:value={only}
        ><option value="">{say.materials.all}</option>{#each GROUPS.filter((g) => sheets?.some((s) => s.group === g)) as g (g)}<option
            value={g}>{say.groups[g]}</option
          >{/each}</select
      ></label
    >
  </div>
  <div class="filter" role="group" aria-label={say.materials.kinds}>
    <button class="btn small" class:go={!only} aria-pressed={!only} onclick={() => (only = "")}>{say.materials.all}</button>
    {#each GROUPS.filter((g) => sheets?.some((s) => s.group === g)) as g (g)}<button
        class="btn small"
        class:go={only === g}
        aria-pressed={only === g}
        onclick={() => (only = g)}>{say.groups[g]}</button
      >{/each}
  </div>
  {#if session.who?.role === "owner" && sheets}
    {#if labelling}<LabelForm shelf={sheets} done={(text) => ((labelling = false), (said = text), void (text && load()))} />
    {:else}<p><button class="btn" onclick={() => (labelling = true)}>{say.label.open}</button></p>{/if}
  {/if}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {#if told.problem}<p class="refusal" role="alert"><b>{told.problem}</b></p>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  {#if sheets && !shown.length}<p>{say.materials.noMaterialFound}</p>{/if}
  {#each GROUPS as group (group)}
    {@const mine = shown.filter((s) => s.group === group)}
    {#if mine.length}
      <h2>{say.groups[group]}</h2>
      <ul>
        {#each mine as s (s.sheet.id)}
          <li class:open={open.includes(s.sheet.material_id)}>
            <button aria-expanded={open.includes(s.sheet.material_id)} onclick={() => turn(s.sheet.material_id)}>
              <b>{s.sheet.name}</b>
              <span class="kind">{inReadersWords(s.sheet.kind)}</span>
              <span class="film">{film(s)}</span>
              <span class="by">{s.sheet.aid ? "" : s.method_name}</span>
              <span class="grade">{s.sheet.grade === "typical" ? say.materials.typical : say.materials.ownSheet}</span>
            </button>
            {#if open.includes(s.sheet.material_id)}<SheetDetail {s} bind:prices {keep} done={(text) => void edited(text)} />{/if}
          </li>
        {/each}
      </ul>
    {/if}
  {/each}

  {#if session.who?.role === "owner"}<form onsubmit={takeIn}>
      <label
        >{say.materials.importDataSheetsJsonOr}
        <input type="file" accept=".json,.toml,.csv,application/json,application/toml,text/csv" bind:files /></label
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
  .one {
    display: none;
  }
  .one select {
    width: 100%;
  }
  h1 {
    font-size: 34px;
  }
  h2 {
    margin-top: 12px;
  }
  .filter {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  ul {
    list-style: none;
  }
  li {
    border-top: 1px solid var(--edge);
  }
  li.open {
    background: var(--field);
    box-shadow: inset 6px 0 var(--ink);
  }
  li button {
    width: 100%;
    min-height: 46px;
    padding: 4px 12px;
    display: grid;
    grid-template-columns: 230px minmax(0, 1fr) 150px 150px 110px;
    gap: 16px;
    align-items: center;
    text-align: left;
    font: inherit;
    font-size: 14.5px;
    color: var(--ink);
    background: none;
    border: 0;
    cursor: pointer;
  }
  li button:hover b {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  b {
    font-weight: 720;
  }
  .kind,
  .by,
  .grade {
    color: var(--ink2);
  }
  .film {
    font-variant-numeric: tabular-nums;
  }
  form {
    display: flex;
    gap: 12px;
    align-items: end;
    flex-wrap: wrap;
    padding-top: 14px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 900px) {
    .page {
      padding: 12px 16px;
    }
    /* One choice, not five rows of buttons before the first material. */
    .filter {
      display: none;
    }
    .ttl {
      flex-wrap: wrap;
    }
    .search,
    .one {
      flex: 1 0 100%;
      max-width: none;
    }
    .one {
      display: block;
    }
    li button {
      grid-template-columns: minmax(0, 1fr) auto;
      gap: 0 12px;
      min-height: 56px;
    }
    .kind {
      grid-column: 1 / -1;
      grid-row: 2;
    }
    .by,
    .grade {
      display: none;
    }
  }
</style>
