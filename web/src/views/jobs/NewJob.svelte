<script lang="ts">
  /** A job by hand: asset, parts with substrate and area, a stack that is judged while it is picked. */
  import { push } from "svelte-spa-router";
  import { api, inWords, type Finding, type Problem, type Schemas } from "../../api/client";
  import LayerSection from "../../figures/LayerSection.svelte";
  import { session } from "../../lib/session.svelte";
  import Stop from "../../ui/Stop.svelte";

  type PartRow = { name: string; area: string; substrate: string };
  type LayerRow = { sheet_id: string; coats: string; um: string };
  let title = $state("");
  let asset = $state("");
  let kind = $state("road");
  let place = $state(session.who?.places[0]?.id ?? "");
  let parts = $state<PartRow[]>([{ name: "", area: "", substrate: "bare_steel" }, { name: "", area: "", substrate: "bare_steel" }]);
  let layers = $state<LayerRow[]>([]);
  let shelf = $state.raw<Schemas["SheetOut"][]>([]);
  let substrates = $state.raw<Schemas["SubstrateOut"][]>([]);
  let findings = $state.raw<Finding[]>([]);
  let refusal = $state("");
  let errors = $state.raw<Problem["errors"]>([]);
  let busy = $state(false);

  $effect(() => {
    void api.GET("/api/shelf").then(({ data }) => (shelf = data ?? []));
    void api.GET("/api/substrates").then(({ data }) => (substrates = data ?? []));
  });
  const sheetOf = (id: string) => shelf.find((s) => s.sheet.id === id)?.sheet;
  const number = (v: string): number => Number(v.replace(",", "."));
  const drafted = $derived(layers.filter((l) => l.sheet_id && number(l.coats) >= 1 && number(l.coats) <= 40).map((l) => ({ sheet_id: l.sheet_id, coats: Math.round(number(l.coats)), target_um: l.um.trim() && number(l.um) > 0 ? number(l.um) : undefined })));
  const surfaces = $derived([...new Set(parts.map((p) => p.substrate))]);
  $effect(() => {
    const body = { substrates: surfaces, layers: drafted };
    if (!drafted.length) return void (findings = []);
    void api.POST("/api/judge", { body }).then(({ data, error }) => {
      findings = data?.findings ?? [];
      if (error) refusal = inWords(error);
    });
  });
  function add(id: string): void {
    const sheet = sheetOf(id);
    if (!sheet) return;
    const coats = sheet.properties.family === "liner" ? 2 : 1;
    layers.push({ sheet_id: id, coats: String(coats), um: String(Math.round((coats * (sheet.film.dry_um_min + sheet.film.dry_um_max)) / 2)) });
  }
  const section = $derived(drafted.map((l) => ({ sheet: sheetOf(l.sheet_id)!, coats: l.coats, um: l.target_um ?? (l.coats * ((sheetOf(l.sheet_id)?.film.dry_um_min ?? 0) + (sheetOf(l.sheet_id)?.film.dry_um_max ?? 0))) / 2 })).filter((l) => l.sheet));
  const stopped = $derived(findings.some((f) => f.severity === "stop"));

  async function create(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    errors = [];
    const body = {
      title, asset, asset_kind: kind, place_id: place, layers: drafted,
      parts: parts.filter((p) => p.name.trim() || p.area.trim()).map((p) => ({ name: p.name, area_m2: p.area.trim() === "" ? NaN : number(p.area), substrate: p.substrate, condition: "", count: 1 })),
    };
    const bad = body.parts.find((p) => !(p.area_m2 > 0 && p.area_m2 <= 10000));
    if (bad) {
      refusal = `Area of ${bad.name || "a part"}: expected m², a number above 0, up to 10 000.`;
      busy = false;
      return;
    }
    try {
      const { data, error } = await api.POST("/api/jobs", { body });
      if (data) return void push(`/jobs/${data.id}/run`);
      refusal = inWords(error);
      errors = (error as unknown as Problem | undefined)?.errors ?? [];
    } catch (error) {
      refusal = inWords(error);
    }
    busy = false;
  }
</script>

<form class="page" onsubmit={create} novalidate>
  <section class="left">
    <h1>New job</h1>
    <div class="three">
      <label>What is done <input bind:value={title} placeholder="Load bed" /></label>
      <label>On what <input bind:value={asset} placeholder="Crew-cab pickup" /></label>
      <label>Kind <select bind:value={kind}><option value="road">Road vehicle</option><option value="vessel">Vessel</option><option value="aircraft">Aircraft</option></select></label>
      <label>Where <select bind:value={place}>{#each session.who?.places ?? [] as p (p.id)}<option value={p.id}>{p.name}</option>{/each}</select></label>
    </div>
    <h2>Parts</h2>
    {#each parts as p, i (i)}
      <div class="part">
        <label>Part {i + 1} <input bind:value={p.name} /></label>
        <label>Area m² <input inputmode="decimal" bind:value={p.area} /></label>
        <label>Surface <select bind:value={p.substrate}>{#each substrates as s (s.id)}<option value={s.id}>{s.name}</option>{/each}</select></label>
        <button type="button" class="btn small" disabled={parts.length === 1} onclick={() => parts.splice(i, 1)} aria-label={`Take part ${i + 1} away`}>Take away</button>
      </div>
    {/each}
    <div><button type="button" class="btn small" onclick={() => parts.push({ name: "", area: "", substrate: parts.at(-1)?.substrate ?? "bare_steel" })}>One more part</button></div>
    <h2>Layers, from the surface up</h2>
    {#each layers as l, i (i)}
      <div class="part">
        <p><b>{i + 1}. {sheetOf(l.sheet_id)?.name}</b>{sheetOf(l.sheet_id)?.grade === "typical" ? ", typical" : ""}</p>
        <label>Coats <input inputmode="numeric" bind:value={l.coats} /></label>
        <label>Dry µm in all <input inputmode="decimal" bind:value={l.um} /></label>
        <button type="button" class="btn small" onclick={() => layers.splice(i, 1)} aria-label={`Take layer ${i + 1} away`}>Take away</button>
      </div>
    {/each}
    <div class="shelf">{#each shelf as s (s.sheet.id)}<button type="button" class="btn small" onclick={() => add(s.sheet.id)}>{s.sheet.name}</button>{/each}</div>
    {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
    {#each errors as e, i (i)}{#if e.field}<p class="refusal">{e.field}: {e.expected}</p>{/if}{/each}
    <div><button class="btn go" disabled={busy || stopped || !drafted.length}>{stopped ? "Stopped: change the layers" : "Start this job"}</button></div>
  </section>
  <section class="right" aria-label="Stack so far">
    {#each findings as f (f.rule_id + f.position)}<Stop what={f.what} why={f.why} instead={f.instead} severity={f.severity} />{/each}
    {#if section.length}<LayerSection layers={section} substrate={substrates.find((s) => s.id === parts[0]?.substrate)?.name ?? ""}
        joins={findings.filter((f) => f.severity === "stop").map((f, i) => ({ number: i + 1, position: f.position, ok: false }))} />
    {:else}<p>Pick the first layer: it is drawn here to scale, and judged as you go.</p>{/if}
  </section>
</form>

<style>
  .page { display: grid; grid-template-columns: 1fr 460px; flex: 1; }
  .left { padding: 16px 24px; display: grid; gap: 12px; align-content: start; }
  .right { background: var(--field); border-left: 2px solid var(--ink); padding: 20px; display: grid; gap: 12px; align-content: start; }
  h1 { font-size: 34px; }
  label { font-weight: 640; font-size: 14px; }
  .three { display: grid; grid-template-columns: 1fr 1fr; gap: 10px; }
  .part { display: grid; grid-template-columns: 1.4fr 110px 1fr auto; gap: 10px; align-items: end; }
  .shelf { display: flex; gap: 8px; flex-wrap: wrap; }
  .refusal { border-left: 6px solid var(--ink); padding-left: 10px; }
  @media (max-width: 900px) { .page { grid-template-columns: 1fr; } .part { grid-template-columns: 1fr 1fr; } .right { border-left: 0; } }
</style>
