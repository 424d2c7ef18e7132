<script lang="ts">
  /** Shelf: the sheets of the shop, each value as the sheet has it, and what the shop pays. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { bare, duration, kelvin, percent, setup, show, um, unit, volume } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { typed } from "../../lib/units";
  import SheetForm from "./SheetForm.svelte";

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
  const UNITS: Record<string, string> = { l: "litre", m: "metre", m2: "square metre" };
  const NEXT: Record<string, string> = { same: "itself", any: "anything else" };
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
    if (!file) return void (refusal = "Choose a file first: a sheet as JSON, or many as CSV.");
    const body = new FormData();
    body.append("file", file);
    const path = file.name.toLowerCase().endsWith(".csv") ? "/api/sheets/table" : "/api/sheets/import";
    const { data, error } = await api.POST(path, { body: body as never, bodySerializer: (b) => b as unknown as FormData });
    refusal = data ? "" : inWords(error);
    if (!data) return;
    await load();
    said = Array.isArray(data) ? `${data.length} sheets are on the shelf.` : `${data.sheet.name} is on the shelf.`;
  }
  async function addTypical(): Promise<void> {
    const { data, error } = await api.POST("/api/sheets/typical");
    refusal = data ? "" : inWords(error);
    if (!data) return;
    if (data.length) await load();
    said = data.length
      ? `${data.length} typical sheets were added: ${data.map((s) => s.sheet.name).join(", ")}.`
      : "Nothing typical is missing.";
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
      return void (refusal = `Price of ${pack}: "${text}" given, expected an amount in ${session.who?.currency}, 0 or more, or nothing.`);
    const { error } = await api.PUT("/api/prices", { body: { material_id, pack, amount } });
    refusal = error ? inWords(error) : "";
    if (!error) said = amount === null ? `The price of ${pack} is forgotten.` : `${pack}: ${amount} ${session.who?.currency}.`;
  }
</script>

<div class="page">
  <div class="ttl">
    <h1>Shelf</h1>
    <label class="search"
      ><span class="sr">Search the shelf</span><input type="search" bind:value={q} placeholder="primer, peelable, antifouling" /></label
    >
  </div>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {#if told.problem}<p class="refusal" role="alert"><b>{told.problem}</b></p>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  {#if sheets && !shown.length}<p>Nothing on the shelf is called that.</p>{/if}
  {#each shown as s (s.sheet.id)}
    {#if s.sheet.id === firstAid}<h2 class="aids">What steps use up</h2>{/if}
    <section>
      <div>
        <h2>{s.sheet.name}</h2>
        <p class="mute">{s.sheet.kind}</p>
        <p class="grade">{s.sheet.grade === "typical" ? "Typical values. The can's own sheet wins." : "From the sheet"}</p>
        <p class="acts">
          {#if session.who?.role === "owner"}<button
              class="btn small"
              aria-expanded={editing === s.sheet.id}
              onclick={() => (editing = editing === s.sheet.id ? "" : s.sheet.id)}>Enter the can's sheet</button
            >{/if}
          <a class="line" href={`/api/sheets/${s.sheet.id}`} download>as a file</a>
        </p>
        {#if s.sheet.claim}<p class="mute">Said to last: {s.sheet.claim.text || duration(s.sheet.claim.life_s)}</p>{/if}
      </div>
      {#if s.sheet.aid}
        <dl>
          <dt>For</dt>
          <dd>{s.sheet.aid.serves.map((x) => x.replaceAll("_", " ")).join(", ")}</dd>
          <dt>Goes</dt>
          <dd>
            one {UNITS[s.sheet.aid.unit] ?? s.sheet.aid.unit} does about {show(
              "m2",
              s.sheet.aid.covers_m2,
              s.sheet.aid.covers_m2 < 1 ? 3 : 0,
            )}{s.sheet.grade === "typical" ? ", assumed until this shop has counted its own" : ""}
          </dd>
          {#if s.sheet.aid.grit}<dt>Grit</dt>
            <dd>P{s.sheet.aid.grit}, FEPA</dd>{/if}
          {#if s.sheet.aid.dwell_s}<dt>Works</dt>
            <dd>{duration(s.sheet.aid.dwell_s)}</dd>{/if}
          {#if s.sheet.aid.never_on?.length}<dt>Never on</dt>
            <dd>{s.sheet.aid.never_on.map((x) => x.replaceAll("_", " ")).join(", ")}</dd>{/if}
        </dl>
      {:else}
        <dl>
          <dt>Mix</dt>
          <dd>
            {s.sheet.components.length === 1
              ? s.sheet.components[0]?.name.toLowerCase()
              : s.sheet.components
                  .map((c) => `${c.name.toLowerCase()} ${c.of === "ratio" ? c.parts : `${Math.round(c.parts * 1000) / 10} % of ${c.of}`}`)
                  .join(" : ")}{s.sheet.components.length > 1 ? `, by ${s.sheet.components[0]?.by}` : ""}
          </dd>
          {#if s.sheet.film}
            <dt>Solids</dt>
            <dd>{percent(s.solids_frac)} by volume</dd>
            <dt>A coat</dt>
            <dd>
              {bare("um", s.sheet.film.dry_um_min)} to {um(s.sheet.film.dry_um_max)} dry, {s.sheet.properties.coats_exact
                ? `exactly ${s.sheet.properties.coats_exact}`
                : `up to ${s.sheet.film.coats_max}`}
              {s.sheet.film.coats_max === 1 && !s.sheet.properties.coats_exact ? "coat" : "coats"}, {um(s.sheet.film.total_max_um)} at most
            </dd>
          {:else if s.sheet.coverage}
            <dt>A coat</dt>
            <dd>
              builds no film; {show("m2", s.sheet.coverage.m2_per_l, 0)} from {volume(1000)}, {s.sheet.coverage.coats_min ===
              s.sheet.coverage.coats_max
                ? `${s.sheet.coverage.coats_max} ${s.sheet.coverage.coats_max === 1 ? "coat" : "coats"}`
                : `${s.sheet.coverage.coats_min} to ${s.sheet.coverage.coats_max} coats`}
            </dd>
          {/if}
          <dt>By</dt>
          <dd>
            {s.method_name}{#each s.sheet.setups ?? [] as x, i (i)}<br />{setup(x)}{/each}
          </dd>
          <dt>Pot</dt>
          <dd>{s.sheet.pot?.length ? s.sheet.pot.map((p) => `${duration(p.s)} at ${show("degc", p.at_degc, 0)}`).join(", ") : "none"}</dd>
          <dt>Next coat</dt>
          <dd>
            {s.sheet.recoat
              .map(
                (r) =>
                  `${NEXT[r.next] ?? r.next.replace("family:", "").replace("_", " ")}: ${r.windows.map((w) => `${w.tacky ? "while tacky, " : ""}${duration(w.from_s)} to ${w.to_s ? duration(w.to_s) : "no end"}`).join(", ")}`,
              )
              .join("; ")}
          </dd>
          <dt>Air</dt>
          <dd>
            {bare("degc", s.sheet.limits?.surface_min_degc ?? 10, 0)} to {show("degc", s.sheet.limits?.surface_max_degc ?? 35, 0)}, up to {percent(
              s.sheet.limits?.rh_max_frac ?? 0.85,
            )}, {kelvin(s.sheet.limits?.dew_margin_k ?? 3)} above dew point
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
              >{p.name}, makes {volume(p.makes_ml)}, {session.who?.currency}<input
                inputmode="decimal"
                bind:value={prices[key]}
                disabled={session.who?.role !== "owner"}
                placeholder="no price"
              /></label
            >
            {#if session.who?.role === "owner"}<button class="btn small" aria-label={`Keep the price of ${s.sheet.name}, ${p.name}`}
                >Keep</button
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
                placeholder="no price"
              /></label
            >
            {#if session.who?.role === "owner"}<button class="btn small" aria-label={`Keep the price of ${s.sheet.name}, ${p.name}`}
                >Keep</button
              >{/if}
          </form>
        {/each}
        {#each s.sheet.hazards ?? [] as h, i (i)}<p class="haz">{h}</p>{/each}
      </div>
      {#if editing === s.sheet.id}<SheetForm sheet={s.sheet} done={(text) => void edited(text)} />{/if}
    </section>
  {/each}
  {#if session.who?.role === "owner"}<form onsubmit={takeIn}>
      <label>Take in a sheet as JSON, or many as CSV <input type="file" accept=".json,.csv,application/json,text/csv" bind:files /></label
      ><button class="btn small">Take in</button>
    </form>{/if}
  {#if session.who?.role === "owner"}<p><button class="btn small" onclick={addTypical}>Add typical sheets this shelf lacks</button></p>{/if}
  <p><a class="line" href="/api/sheets/table" download>All sheets as CSV</a></p>
  <p class="mute">Thickness in {unit("um")}. Values marked typical are of a kind, of no maker.</p>
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
