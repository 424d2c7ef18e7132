<script lang="ts">
  /** Shelf: the sheets of the shop, read only for now; each value as the sheet has it. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { duration, percent } from "../../lib/format";

  let sheets = $state.raw<Schemas["SheetOut"][] | null>(null);
  let refusal = $state("");
  $effect(() => {
    void api.GET("/api/shelf").then(({ data, error }) => {
      sheets = data ?? [];
      refusal = data ? "" : inWords(error);
    });
  });
  const NEXT: Record<string, string> = { same: "itself", any: "anything else" };
</script>

<div class="page">
  <h1>Shelf</h1>
  {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
  {#each sheets ?? [] as s (s.sheet.id)}
    <section>
      <div><h2>{s.sheet.name}</h2><p class="mute">{s.sheet.kind}</p>
        <p class="grade">{s.sheet.grade === "typical" ? "Typical values. The can's own sheet wins." : "From the sheet"}</p></div>
      <dl>
        <dt>Mix</dt><dd>{s.sheet.components.map((c) => `${c.name.toLowerCase()} ${c.of === "ratio" ? c.parts : `${c.parts * 100} % of ${c.of}`}`).join(" : ")}{s.sheet.components.length > 1 ? `, by ${s.sheet.components[0]?.by}` : ""}</dd>
        <dt>Solids</dt><dd>{percent(s.solids_frac)} by volume</dd>
        <dt>A coat</dt><dd>{s.sheet.film.dry_um_min} to {s.sheet.film.dry_um_max} µm dry, {s.sheet.film.coats_max} coats, {s.sheet.film.total_max_um} µm at most</dd>
        <dt>Pot</dt><dd>{s.sheet.pot.length ? s.sheet.pot.map((p) => `${duration(p.s)} at ${p.at_degc} °C`).join(", ") : "none"}</dd>
        <dt>Next coat</dt><dd>{s.sheet.recoat.map((r) => `${NEXT[r.next] ?? r.next.replace("family:", "")}: ${r.windows.map((w) => `${duration(w.from_s)} to ${w.to_s ? duration(w.to_s) : "no end"}`).join(", ")}`).join("; ")}</dd>
        <dt>Air</dt><dd>{s.sheet.limits.surface_min_degc} to {s.sheet.limits.surface_max_degc} °C, up to {percent(s.sheet.limits.rh_max_frac)}, {s.sheet.limits.dew_margin_k} K above dew point</dd>
      </dl>
      <div>{#each s.sheet.hazards as h (h)}<p class="haz">{h}</p>{/each}</div>
    </section>
  {/each}
</div>

<style>
  .page { padding: 16px 24px; display: grid; gap: 4px; align-content: start; }
  h1 { font-size: 34px; margin-bottom: 8px; }
  section { display: grid; grid-template-columns: 210px 1fr 340px; gap: 20px; border-top: 2px solid var(--edge); padding: 12px 0; font-size: 14.5px; }
  dl { display: grid; grid-template-columns: 84px 1fr; gap: 3px 10px; }
  dt { color: var(--ink2); }
  .grade { margin-top: 6px; font-weight: 680; font-size: 13.5px; }
  .haz { border-left: 4px solid var(--ink); padding-left: 8px; margin-bottom: 6px; }
  @media (max-width: 900px) { section { grid-template-columns: 1fr; } .page { padding: 12px 16px; } }
</style>
