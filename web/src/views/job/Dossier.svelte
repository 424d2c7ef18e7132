<script lang="ts">
  /** The record of a job as it is handed over: survey, damage, stack, checks, coats, service.  Made to be printed. */
  import { Answer } from "../../lib/answer.svelte";
  import { api, type JobPage, type Schemas } from "../../api/client";
  import { area, bare, clockTime, date, duration, kelvin, percent, show, temp, um, unit } from "../../lib/format";
  import { printed } from "../../lib/paper";
  import Pinned from "./Pinned.svelte";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const record = new Answer<Schemas["DossierOut"]>();
  const found = new Answer<Schemas["DamageOut"][]>();
  const doc = $derived(record.data);
  const damage = $derived(found.data ?? []);
  const refusal = $derived(record.problem || found.problem);
  $effect(() => {
    void page.state.through_seq;
    const path = { params: { path: { job_id: page.head.id } } };
    void record.ask(() => api.GET("/api/jobs/{job_id}/dossier", path));
    void found.ask(() => api.GET("/api/jobs/{job_id}/damage", path));
  });
  const at = (s: number): string => `${date(s)}, ${clockTime(s)}`;
  const parts = $derived(page.facts.parts.filter((p) => !p.retired));
  /** Parts with the same layers stand in one line. */
  const layers = $derived.by(() => {
    const rows: { key: string; names: string[]; l: Schemas["Layer"]; sheet: Schemas["Sheet"] }[] = [];
    for (const p of parts)
      for (const l of page.facts.layers.filter((x) => x.part_id === p.id)) {
        const key = [l.position, l.sheet_id, l.coats, l.target_um].join();
        const row = rows.find((r) => r.key === key);
        if (row) row.names.push(p.name);
        else rows.push({ key, names: [p.name], l, sheet: page.facts.sheets[l.sheet_id]! });
      }
    return rows.toSorted((a, b) => a.l.position - b.l.position);
  });
  const named = (names: string[]): string =>
    names.length === parts.length && names.length > 1 ? `all ${names.length} parts` : names.join(", ");
  const choices = $derived(page.facts.choices ?? {});
  const asks = $derived(
    [
      ["The finish was to be", (choices.wanted ?? "").replaceAll(" ", ", ")],
      ["It was to last", choices.life_s ? duration(Number(choices.life_s)) : ""],
      ["In use again within", choices.ready_s ? duration(Number(choices.ready_s)) : ""],
      ["Prepared", (choices.prep ?? "").replaceAll("_", " ").replaceAll("+", ", then ")],
      ...Object.entries(choices)
        .filter(([k]) => k.startsWith("way."))
        .map(([k, v]) => [k.slice(4).replaceAll("_", " "), v]),
      ["Not chosen", choices.rejected ? `${choices.rejected}${choices.rejected_why ? `, because ${choices.rejected_why}` : ""}` : ""],
    ].filter(([, v]) => v) as [string, string][],
  );
  const FROM: Record<string, string> = { plan: "as planned", draw: "from what was drawn", wet: "from the comb", gauge: "gauge" };
  const unlooked = $derived((doc?.checks ?? []).filter((c) => c.held === null).length);
  /** The same step seen by the same tap on several parts is one line. */
  const told = $derived.by(() => {
    const rows: (Schemas["CheckLine"] & { names: string[] })[] = [];
    for (const c of (doc?.checks ?? []).filter((x) => x.held !== null)) {
      const row = rows.find((r) => r.step === c.step && r.at === c.at && r.who === c.who && r.held === c.held);
      if (row && !row.names.includes(c.part)) row.names.push(c.part);
      else if (!row) rows.push({ ...c, names: [c.part] });
    }
    return rows.toSorted((a, b) => (a.at ?? 0) - (b.at ?? 0));
  });
</script>

<div class="dossier">
  <div class="ttl">
    <div>
      <h2>Dossier</h2>
      <p>
        {[page.head.title, page.head.asset, page.head.mark, page.head.paint_code, page.head.customer].filter(Boolean).join(", ")}. Log to
        entry {page.state.through_seq}.
      </p>
    </div>
    <span class="tools"
      ><button class="btn small" onclick={printed}>Print</button>
      <a class="btn small" href={`/api/jobs/${page.head.id}/export`} download>Whole job</a>
      <a class="btn small" href={`/api/jobs/${page.head.id}/entries.csv`} download>Log as a table</a></span
    >
  </div>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <section>
    <h3>As it was found</h3>
    <table>
      <thead><tr><th>Part</th><th>Area</th><th>Surface, condition</th><th>Must survive</th><th>Damage told</th></tr></thead>
      <tbody
        >{#each parts as p (p.id)}<tr
            ><td><b>{p.name}</b>{p.count > 1 ? ` × ${p.count}` : ""}</td><td>{area(p.area_m2 * p.count)}</td><td
              >{[
                p.substrate.replaceAll("_", " "),
                p.condition,
                p.bare_mm ? `bare patches up to ${show("mm", p.bare_mm)}` : "",
                ...(p.features ?? []).map((x) => x.replaceAll("_", " ")),
              ]
                .filter(Boolean)
                .join(", ")}</td
            ><td>{(p.must_survive ?? []).join(", ") || "nothing named"}</td><td>{p.damage || "none noted"}</td></tr
          >{/each}</tbody
      >
    </table>
  </section>
  <section>
    <h3>Damage before work</h3>
    <ul class="found">
      {#each damage as r (r.entry_id)}<li>
          {#if r.photo_id}<Pinned
              id={r.photo_id}
              across={r.across_frac ?? 0.5}
              down={r.down_frac ?? 0.5}
              alt={`${r.part}: ${r.text}`}
            />{/if}
          <p><b>{r.part}.</b> {r.text}</p>
          <p class="mute">{at(r.at)}{r.before_work ? "" : ", after work had begun"}</p>
        </li>{:else}<li class="mute">None written down.</li>{/each}
    </ul>
  </section>
  <section>
    <h3>What went on it</h3>
    {#if asks.length}<dl>
        {#each asks as [k, v] (k)}<dt>{k}</dt>
          <dd>{v}</dd>{/each}
      </dl>{/if}
    <table>
      <thead><tr><th>Part</th><th>Layer</th><th>Material</th><th>Coats</th><th>Dry film aimed at</th><th>Sheet</th></tr></thead>
      <tbody
        >{#each layers as { names, l, sheet } (l.id)}<tr
            ><td>{named(names)}</td><td>{l.position + 1}</td><td><b>{sheet.name}</b>, {sheet.kind}</td><td>{l.coats}</td><td
              >{l.target_um ? um(l.target_um) : "builds none"}</td
            ><td>{sheet.grade === "typical" ? "typical values" : "its own sheet"}</td></tr
          >{/each}</tbody
      >
    </table>
  </section>
  {#if doc}
    <section>
      <h3>Checks</h3>
      {#if told.length}<table>
          <thead><tr><th>Part</th><th>Step</th><th>Right when</th><th>Found</th><th>When, who</th></tr></thead>
          <tbody
            >{#each told as c, i (i)}<tr class:bad={!c.held}
                ><td>{named(c.names)}</td><td><b>{c.step}</b></td><td>{c.check}</td><td>{c.held ? "right" : "not right"}</td><td
                  >{c.at ? at(c.at) : ""}, {c.who}</td
                ></tr
              >{/each}</tbody
          >
        </table>{/if}
      {#if unlooked}<p class="mute">{unlooked} {unlooked === 1 ? "step was" : "steps were"} not ticked by anybody.</p>{/if}
    </section>
    <section>
      <h3>Coats</h3>
      {#if doc.coats.length}<div class="scroll">
          <table>
            <thead
              ><tr
                ><th>Part</th><th>Coat</th><th>Begun, who</th><th>Took</th><th>Dry, {unit("um")}</th><th>Surface</th><th>Humidity</th><th
                  >Above dew point</th
                ></tr
              ></thead
            >
            <tbody
              >{#each doc.coats as c, i (i)}<tr
                  ><td>{c.part}</td><td><b>{c.material} {c.n}</b></td><td>{at(c.started_at)}, {c.who}</td><td
                    >{c.done_at ? duration(c.done_at - c.started_at) : "going on"}</td
                  >
                  <td
                    >{c.dry_likely_um == null
                      ? "none"
                      : `${bare("um", c.dry_likely_um)}, ${bare("um", c.dry_low_um ?? 0)} to ${bare("um", c.dry_high_um ?? 0)}, ${FROM[c.dry_from] ?? c.dry_from}`}</td
                  ><td>{temp(c.surface_degc)}</td><td>{percent(c.rh_frac)}</td><td
                    >{kelvin(c.margin_k)}{c.air_from === "default" ? ", assumed" : ""}</td
                  ></tr
                >{/each}</tbody
            >
          </table>
        </div>
      {:else}<p class="mute">No coat yet.</p>{/if}
    </section>
    {#if doc.said.length || page.state.flags.length}
      <section>
        <h3>Said on the way</h3>
        {#each doc.said as s, i (i)}<p>
            <b>{s.kind === "unmasked" ? "tape" : s.kind}.</b>
            {s.text} <span class="mute">{at(s.at)}, {s.who}</span>
          </p>{/each}
        {#each page.state.flags as f, i (i)}<p class="flag"><b>Look at.</b> {f.text}</p>{/each}
      </section>
    {/if}
    {#if page.state.service?.length}
      <section>
        <h3>Service</h3>
        {#each page.state.service as x (x.part_id + x.in_service_at)}<p>
            <b>{parts.find((p) => p.id === x.part_id)?.name ?? "part"}</b>, in service since {date(x.in_service_at)}{x.claim_until_at
              ? `, claimed to ${date(x.claim_until_at)}`
              : ", nobody claimed how long"}{x.ended_at ? `, ended ${date(x.ended_at)}, ${x.ended_how}` : ""}.
          </p>{/each}
      </section>
    {/if}
  {/if}
  <p class="mute">
    Typical values hold until the can's own sheet says otherwise. Local codes and licensed practice come before this record.
  </p>
</div>

<style>
  .dossier {
    padding: 16px 24px 32px;
    display: grid;
    gap: 14px;
    align-content: start;
    max-width: 1180px;
  }
  .ttl {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    align-items: start;
    flex-wrap: wrap;
  }
  .tools {
    display: flex;
    gap: 6px;
    flex-wrap: wrap;
  }
  section {
    border-top: 2px solid var(--ink);
    padding-top: 8px;
    display: grid;
    gap: 8px;
    min-width: 0;
  }
  h3 {
    font-size: 17px;
  }
  .scroll {
    overflow-x: auto;
  }
  table {
    width: 100%;
    font-size: 14px;
  }
  th,
  td {
    padding: 4px 10px 4px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: top;
    text-align: left;
  }
  .bad td {
    background: var(--lift);
  }
  .found {
    list-style: none;
    margin: 0;
    padding: 0;
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
    gap: 14px;
  }
  .found li {
    break-inside: avoid;
  }
  dl {
    display: grid;
    grid-template-columns: 180px 1fr;
    gap: 2px 10px;
    font-size: 14px;
  }
  dt {
    color: var(--ink2);
  }
  dd {
    font-weight: 620;
  }
  .flag,
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media print {
    .tools {
      display: none;
    }
    section {
      break-inside: avoid-page;
    }
  }
</style>
