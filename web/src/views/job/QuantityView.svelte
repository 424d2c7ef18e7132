<script lang="ts">
  /** Quantity: what the whole job takes, every loss named, in packs and money. */
  import { Answer } from "../../lib/answer.svelte";
  import { api, type JobPage, type Schemas } from "../../api/client";
  import { area, duration, entered, money, show, um, unit, volume } from "../../lib/format";
  import WhyNote from "../../ui/WhyNote.svelte";
  import { cards } from "../../lib/cards";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const told = new Answer<Schemas["QuantityPage"]>();
  const answer = $derived(told.data);
  let inspected = $state(false);
  let profile = $state("");

  $effect(() => {
    void page.facts.id;
    const profile_um = profile.trim() ? entered("um", profile) : 0;
    if (!(profile_um >= 0 && profile_um <= 300))
      return told.refuse(say.quantities.surfaceProfileEnteredExpected0(profile, show("um", 300)));
    void told.ask(() =>
      api.GET("/api/jobs/{job_id}/quantity", { params: { path: { job_id: page.head.id }, query: { inspected, profile_um } } }),
    );
  });
  type Need = Schemas["SheetNeed"];
  /** Bar of one material: what stays on the part and where the rest goes. */
  const bar = (n: Need): { name: string; ml: number; fill: string }[] =>
    n.volume
      ? [
          { name: say.quantities.onTheParts, ml: n.volume.film_ml, fill: "var(--b4)" },
          { name: say.quantities.inTheSurfaceProfile, ml: n.volume.profile_ml, fill: "var(--b-speck)" },
          { name: say.quantities.oversprayLoss, ml: n.volume.overspray_ml, fill: "var(--b2)" },
          { name: say.quantities.leftInTheCups, ml: n.volume.left_over_ml, fill: "var(--plan)" },
          { name: say.quantities.hoseAndGun, ml: n.volume.fixed_ml, fill: "var(--b3)" },
        ].filter((x) => x.ml > 0)
      : [{ name: say.quantities.absorbed, ml: n.total_ml, fill: "var(--b4)" }];
  const UNITS: Record<string, [string, string]> = {
    disc: [say.quantities.disc, say.quantities.discs],
    sheet: [say.quantities.sheet, say.quantities.sheets],
    pad: [say.quantities.pad, say.quantities.pads],
    cloth: [say.quantities.towel, say.quantities.towels],
    can: [say.quantities.can, say.quantities.cans],
    piece: [say.quantities.piece, say.quantities.pieces],
  };
  function amount(a: Schemas["AidNeed"]): string {
    if (a.unit === "l") return volume(a.amount * 1000);
    if (a.unit === "kg") return show("g", a.amount * 1000);
    if (a.unit === "m") return show("m", a.amount, 0);
    if (a.unit === "m2") return area(a.amount);
    const n = Math.ceil(a.amount - 1e-9);
    return `${n} ${UNITS[a.unit]?.[n === 1 ? 0 : 1] ?? a.unit}`;
  }
  const most = $derived(Math.max(1, ...(answer?.needs ?? []).map((n) => n.total_ml)));
</script>

<div class="page">
  <div class="ask">
    <label class="tick"><input type="checkbox" bind:checked={inspected} /> {say.quantities.raiseTheTargetSoThat}</label>
    <label
      >{say.quantities.blastProfile(unit("um"))}
      <input inputmode="decimal" bind:value={profile} placeholder={say.quantities.n0Smooth} /></label
    >
    {#if answer}<p class="sum">
        <span class="num">{answer.cost === null ? "?" : money(answer.cost)}</span>{answer.cost === null
          ? say.quantities.aPriceIsMissingIn
          : say.quantities.materialCostWholePacks}
      </p>{/if}
  </div>
  {#if told.problem}<p class="refusal" role="alert"><b>{told.problem}</b></p>{/if}
  {#each answer?.needs ?? [] as n (n.sheet_id)}
    <section>
      <div>
        <h2>{n.name}</h2>
        <p>{say.quantities.coatOn(n.coats, area(n.area_m2))}</p>
        {#if n.nominal_um !== null}<p class="mute">
            {say.quantities.targetDft(
              um(n.nominal_um ?? 0),
              n.aim_um !== n.nominal_um && n.aim_um ? say.quantities.aimAt(um(n.aim_um)) : "",
            )}
            {#if n.inspected}{say.quantities.toPassInspection(um(n.inspected.value))} <WhyNote why={n.inspected.why} />{/if}
          </p>{/if}
        {#if n.breaks}<p class="refusal">{n.breaks}</p>{/if}
      </div>
      <div>
        <svg width="100%" height="34" viewBox="0 0 1000 34" preserveAspectRatio="none" aria-hidden="true">
          {#each bar(n) as b, i (i)}
            <rect
              x={(bar(n)
                .slice(0, i)
                .reduce((s, y) => s + y.ml, 0) /
                most) *
                1000}
              width={(b.ml / most) * 1000}
              height="34"
              fill={b.fill}
              stroke="var(--ink)"
              stroke-width="1"
              vector-effect="non-scaling-stroke"
            />
          {/each}
        </svg>
        <dl>
          {#each bar(n) as b, i (i)}<dt><i style:background={b.fill}></i>{b.name}</dt>
            <dd>{volume(b.ml)}</dd>{/each}
          <dt><b>{say.quantities.total}</b></dt>
          <dd><b>{volume(n.total_ml)}</b> <WhyNote why={n.why} label={say.quantities.how} /></dd>
        </dl>
      </div>
      <div class="buy">
        {#if n.purchase}
          {#each n.purchase.lines as x, i (i)}<p>
              <span class="num">{x.count}</span>
              {say.quantities.text(x.name, x.price == null ? "" : `, ${money(x.price)}`)}
            </p>{/each}
          <p class="mute">
            {say.quantities.leftOver(
              volume(n.purchase.spare_ml),
              n.purchase.cost == null ? say.quantities.noPriceYet : `, ${money(n.purchase.cost)}`,
            )}
          </p>
        {:else}<p class="mute">{say.quantities.noPackSizeOnThe}</p>{/if}
      </div>
    </section>
  {/each}
  {#if answer?.aids.length || answer?.lacks.length}
    <h2 class="aids">{say.common.consumables}</h2>
    {#each answer.lacks as l, i (i)}<p class="refusal"><b>{say.quantities.nothingInMaterialsFor(l.step)}</b> {l.why}.</p>{/each}
    <div class="scroll">
      <table class="cards" {@attach cards}>
        <thead
          ><tr><th>{say.common.what}</th><th>{say.quantities.about}</th><th>{say.common.forLabel}</th><th>{say.quantities.buy}</th></tr
          ></thead
        >
        <tbody
          >{#each answer.aids as a (a.sheet_id)}
            <tr
              ><td><b>{a.name}</b></td><td>{amount(a)} <WhyNote why={a.why} /></td><td
                >{a.steps.join("; ")}{a.dwell_s ? say.quantities.actsFor(duration(a.dwell_s)) : ""}{#each a.hazards as h, i (i)}<span
                    class="haz">{h}</span
                  >{/each}</td
              >
              <td
                >{#each a.purchase?.lines ?? [] as x, i (i)}{i ? ", " : ""}<b>{x.count}</b> {say.quantities.text2(x.name)}{/each}{a.purchase
                  ?.cost == null
                  ? ""
                  : `, ${money(a.purchase.cost)}`}</td
              ></tr
            >
          {/each}</tbody
        >
      </table>
    </div>
  {/if}
  <p class="mute">
    {say.quantities.pricesAreSetIn} <a class="line" href="#/shelf">{say.common.materials}</a>{say.quantities
      .transferEfficiencyAndVariationAre}
  </p>
</div>

<style>
  .page {
    padding: 16px 24px;
    display: grid;
    gap: 12px;
    align-content: start;
  }
  .ask {
    display: flex;
    gap: 24px;
    align-items: end;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .tick {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 44px;
  }
  .tick input {
    width: 24px;
    min-height: 24px;
  }
  .sum {
    margin-left: auto;
    text-align: right;
  }
  .sum .num {
    display: block;
    font-size: 44px;
  }
  section {
    display: grid;
    grid-template-columns: 260px 1fr 240px;
    gap: 24px;
    border-top: 2px solid var(--edge);
    padding: 12px 0;
  }
  .aids {
    border-top: 2px solid var(--ink);
    padding-top: 10px;
  }
  .scroll {
    overflow-x: auto;
  }
  table {
    width: 100%;
    font-size: 14.5px;
  }
  th,
  td {
    padding: 6px 12px 6px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: top;
    text-align: left;
  }
  .haz {
    display: block;
    font-size: 13.5px;
    border-left: 4px solid var(--ink);
    padding-left: 8px;
    margin-top: 4px;
  }
  svg {
    background: var(--field);
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto 1fr auto;
    gap: 3px 14px;
    font-size: 14.5px;
    margin-top: 8px;
  }
  dd {
    font-weight: 640;
    text-align: right;
  }
  dt i {
    display: inline-block;
    width: 12px;
    height: 12px;
    border: 1px solid var(--ink);
    margin-right: 6px;
  }
  .buy .num {
    font-size: 34px;
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
    dl {
      grid-template-columns: 1fr auto;
    }
  }
</style>
