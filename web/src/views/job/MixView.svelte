<script lang="ts">
  /** Mix: one cup, poured bottom up; every pour is an entry, so a reload goes on mid-cup. */
  import { router } from "svelte-spa-router";
  import { api, inReadersWords, type JobPage, type MixPage, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import MixColumn from "../../figures/MixColumn.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { area, bare, duration, entered, field, percent, show, temp, um, unit, volume, when } from "../../lib/format";
  import { typed } from "../../lib/units";
  import { network } from "../../lib/network.svelte";
  import { playedMix, scaledCup } from "../../lib/offline";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import Undo from "../../ui/Undo.svelte";
  import WhyNote from "../../ui/WhyNote.svelte";
  import Beside from "../../ui/Beside.svelte";
  import CanNote from "./CanNote.svelte";
  import CloseBatch from "./CloseBatch.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  type Can = Schemas["CanBody"];
  let { page }: Props = $props();
  const told = new Answer<MixPage>();
  /** What is typed as the amount, where the server cannot be asked: the cup as it was last told, by that factor [ml]. */
  let unasked_ml = $state<number | null>(null);
  const mix = $derived.by(() => {
    if (!told.data) return null;
    const known = told.data;
    const cup = unasked_ml === null || known.poured ? known.cup : scaledCup(known.cup, unasked_ml / known.cup.total_ml);
    const unseen = outbox.sent.filter((x) => x.seq > known.seq).map((x) => x.entry);
    return playedMix({ ...known, cup }, page.head.id, [...unseen, ...outbox.pending]);
  });
  /** Why a pour was not taken. */
  let refusal = $state("");
  let total = $state("");
  let tint = $state("");
  let shows = $state("");
  let warm = $state("");
  let chosen = $state("");
  const now = $derived(serverClock.now);
  const sheets = $derived([...new Set(page.facts.layers.toSorted((a, b) => a.position - b.position).map((l) => l.sheet_id))]);
  const asked = $derived(new URLSearchParams(router.querystring ?? "").get("sheet") ?? "");
  const nextLayer = $derived(page.facts.layers.find((l) => l.id === page.view.next.find((t) => t.kind === "coat")?.layer_id));
  const sheetId = $derived(chosen || (sheets.includes(asked) ? asked : (nextLayer?.sheet_id ?? sheets.at(-1) ?? "")));
  const next = $derived(mix?.next_role ?? null);
  const pour = $derived(mix?.cup.pours.find((p) => p.role === next));
  const isLast = $derived(mix ? mix.cup.pours.at(-1)?.role === next : false);

  $effect(() => {
    void page.seq;
    load(sheetId, total, tint);
  });

  function load(sheet: string, totalText: string, tintText: string): void {
    const [ml, percentTint] = [entered("ml", totalText), typed(tintText, "%")];
    if (totalText.trim() && !(ml > 0 && ml <= 100000))
      return told.refuse(say.mix.amountEntered(totalText, unit("ml"), bare("ml", 100000, 0)));
    if (tintText.trim() && !(percentTint >= 0 && percentTint <= 50)) return told.refuse(say.mix.tintEnteredExpected0To(tintText));
    const query = {
      sheet_id: sheet,
      total_ml: totalText.trim() ? ml : undefined,
      tint_frac: tintText.trim() ? percentTint / 100 : undefined,
    };
    const key = wish(sheet, totalText, tintText);
    unasked_ml = null;
    if (network.down && query.total_ml && !query.tint_frac && told.data?.sheet.id === sheet) {
      unasked_ml = query.total_ml;
      shown = key;
      return;
    }
    void told
      .ask(() => api.GET("/api/jobs/{job_id}/mix", { params: { path: { job_id: page.head.id }, query } }))
      .then((got) => got && (shown = key));
  }

  const wish = (...typed: string[]): string => typed.join("\n");
  /** For what amount and tint the cup is shown: what is poured is what stands there. */
  let shown = $state("");
  let tapped = $state("");
  /** What was tapped last is not tapped twice before the cup shows it; every other tap counts at once. */
  const taken = $derived(shown !== wish(sheetId, total, tint) || (told.waiting && pour?.role === tapped));
  /** Put the next component in: by the amount shown, or by what the scale shows. */
  async function poured(scaleText = ""): Promise<void> {
    if (!mix || !pour) return;
    const batchId = mix.poured?.batch_id ?? crypto.randomUUID();
    const before = mix.cup.pours
      .slice(0, mix.cup.pours.indexOf(pour))
      .reduce((s, p) => s + (mix!.poured?.poured.find((q) => q.role === p.role)?.g ?? p.g), 0);
    refusal = "";
    const scale = scaleText.trim() ? entered("g", scaleText) : undefined;
    if (scale !== undefined && !(scale > before && scale <= 1e6))
      return void (refusal = say.mix.scaleEnteredExpectedMoreThan(scaleText, unit("g"), show("g", before)));
    const mix_degc = warm.trim() ? entered("degc", warm) : null;
    if (mix_degc !== null && !(mix_degc >= -10 && mix_degc <= 60))
      return void (refusal = say.taps.mixEntered(warm, bare("degc", -10, 0), show("degc", 60, 0)));
    const density = pour.g / pour.ml;
    const ml = scale === undefined ? pour.ml : (scale - before) / density;
    const body = {
      batch_id: batchId,
      sheet_id: mix.sheet.id,
      component: pour.role,
      can: canOf(pour.role),
      ml: Math.round(ml * 10) / 10,
      scale_g: Math.round((scale ?? before + pour.g) * 10) / 10,
    };
    const facts: { kind: string; body: Record<string, unknown> }[] = [{ kind: "pour", body }];
    if (isLast) {
      const inCup = (mix.poured?.poured ?? []).map((p) => ({ role: p.role, ml: p.ml, g: p.g }));
      const parts = [...inCup, { role: pour.role, ml: body.ml, g: Math.round(ml * density * 10) / 10 }];
      const isPot = pour.role === "hardener" || inCup.some((p) => p.role === "hardener");
      const hardener_in_at = isPot ? now : null;
      facts.push({ kind: "batch_mixed", body: { batch_id: batchId, sheet_id: mix.sheet.id, parts, hardener_in_at, mix_degc } });
    }
    shows = warm = "";
    tapped = pour.role;
    await outbox.add(page.head.id, facts, say.mix.added(pour.name));
  }
  /** Cans named on this screen; the one remembered from the last pour stands until another is. */
  let named = $state.raw<Record<string, Can | null>>({});
  let closing = $state("");
  /** Mixes that stand about, those of this material first: each is closed one day. */
  const ready = $derived(
    page.state.batches
      .filter((b) => b.mixed && b.closed_at === null)
      .toSorted((a, b) => Number(b.sheet_id === sheetId) - Number(a.sheet_id === sheetId)),
  );
  function canOf(role: string): Can | null {
    const key = `${sheetId}/${role}`;
    const known = mix?.cans.find((c) => c.role === role);
    if (key in named) return named[key] ?? null;
    return known ? { lot: known.lot, expires_on: known.expires_on, opened_on: known.opened_on, of: "", product: "" } : null;
  }
</script>

<div class="mix">
  <section class="cup" aria-label={say.mix.cup}>
    <div class="pick">
      {#each sheets as id (id)}
        <button
          class="btn small"
          class:go={id === sheetId}
          aria-pressed={id === sheetId}
          onclick={() => {
            chosen = id;
            total = "";
            tint = "";
          }}>{page.facts.sheets[id]?.name}</button
        >
      {/each}
      {#if mix}
        <label
          >{say.mix.amountToMix(unit("ml"))}
          <input
            inputmode="decimal"
            bind:value={total}
            placeholder={field("ml", mix.cup.total_ml, 1)}
            disabled={mix.poured !== null}
          /></label
        >
        {#if mix.sheet.components.some((c) => c.role === "tint")}
          <label
            >{say.mix.tintOfBase}
            <input inputmode="decimal" bind:value={tint} placeholder={String(Math.round(mix.tint_frac * 1000) / 10)} /></label
          >
        {/if}
      {/if}
    </div>
    {#if told.problem || refusal}<p class="refusal" role="alert"><b>{told.problem || refusal}</b></p>{/if}
    {#if mix}
      <div class="ratio">
        <span class="num">{mix.cup.ratio.replaceAll(" ", "\u2009")}</span><span
          ><b
            >{say.mix.by(
              mix.sheet.components
                .filter((c) => c.of === "ratio")
                .map((c) => c.name.toLowerCase())
                .join(say.mix.to),
              inReadersWords(mix.sheet.components[0]?.by ?? ""),
            )}</b
          ><br />
          <span class="mute"
            >{mix.sheet.components
              .filter((c) => c.of !== "ratio")
              .map((c) => say.mix.isAddedOnTopAs(c.name, c.of === "base" ? say.mix.baseAlone : say.common.mixInline))
              .join(" ") || say.mix.noTintOrThinner}</span
          ></span
        >
      </div>
      {#if mix.sheet.induction_s}<p class="mute"><b>{say.mix.letItStand(duration(mix.sheet.induction_s))}</b></p>{/if}
      <MixColumn {mix} {next} />
      {#if mix.too_small}<p class="refusal"><b>{say.mix.smallBatch}</b> {mix.too_small}</p>{/if}
      {#if session.mayWrite && pour}
        {#key `${sheetId}/${pour.role}`}<CanNote
            can={canOf(pour.role)}
            systems={Object.values(page.facts.sheets).filter((s) => s.id !== sheetId && s.components.some((c) => c.role === pour!.role))}
            {now}
            note={(can) => (named = { ...named, [`${sheetId}/${pour!.role}`]: can })}
          />{/key}
        <form
          class="row"
          onsubmit={(e) => {
            e.preventDefault();
            void poured(shows);
          }}
        >
          <button class="btn go" type="button" disabled={taken} onclick={() => poured()}>{say.mix.added(pour.name)}</button>
          <label class="sr" for="scale">{say.mix.scaleReading(unit("g"))}</label>
          <input id="scale" inputmode="decimal" bind:value={shows} placeholder={say.mix.scaleReading(unit("g"))} />
          <button class="btn" disabled={taken || !shows.trim()}>{say.mix.saveReading}</button>
        </form>
        <Beside kind="scale" take={(read) => "g" in read && (shows = field("g", read.g, 1))} />
        {#if isLast && mix.pot}<label class="warm"
            >{say.taps.mixMeasured(unit("degc"))}
            <input inputmode="decimal" bind:value={warm} placeholder={field("degc", mix.mix_degc)} /></label
          >{/if}
      {/if}
      <Undo jobId={page.head.id} />
    {/if}
  </section>
  {#if mix}
    <aside>
      <h2>{say.mix.amountNeeded}</h2>
      {#if mix.volume && mix.needs.length}
        <dl>
          <dt>{say.mix.remainingCoat(mix.needs.length)}</dt>
          <dd>{area(mix.needs.reduce((s, n) => s + n.area_m2, 0))}</dd>
          <dt>{say.mix.dftAtSolids(um(mix.needs[0]!.dry_um ?? 0), percent(mix.cup.solids_frac))}</dt>
          <dd>{say.mix.wft(um(mix.needs[0]!.wet?.value ?? 0))}</dd>
          <dt>{say.mix.onTheParts}</dt>
          <dd>{volume(mix.volume.film_ml)}</dd>
          <dt>{say.mix.oversprayLoss}</dt>
          <dd>{volume(mix.volume.overspray_ml)}</dd>
          <dt>{say.mix.leftInTheCup}</dt>
          <dd>{volume(mix.volume.left_over_ml)}</dd>
          <dt>{say.mix.hoseAndGun}</dt>
          <dd>{volume(mix.volume.fixed_ml)}</dd>
        </dl>
        <p class="sum"><b>{say.mix.total}</b><span class="num">{volume(mix.volume.total_ml)}</span></p>
        <WhyNote why={mix.volume.why} label={say.mix.howThisIsCalculated} />
      {:else if mix.needs.length}
        <p>
          {say.mix.coatRemainingByTheSheets(mix.needs.length, volume(mix.needs.reduce((s, n) => s + n.volume_ml, 0)))}
        </p>
      {:else}<p>{say.mix.noCoatOfThisMaterial}</p>{/if}
      {#if mix.voc}
        <h2>{say.mix.voc}</h2>
        <p>
          {say.mix.gLAsMixed(
            show("voc", mix.voc.value),
            mix.voc_limit_g_per_l == null
              ? say.mix.noVocLimitSet
              : mix.voc.value > mix.voc_limit_g_per_l
                ? say.mix.overTheShopsLimitOf(show("voc", mix.voc_limit_g_per_l))
                : say.mix.theShopsLimitIsG(show("voc", mix.voc_limit_g_per_l)),
          )}
          <WhyNote why={mix.voc.why} />
        </p>
      {/if}
      {#if mix.pot}
        <h2>{say.common.potLife}</h2>
        <dl>
          <dt>{say.mix.mixAt}</dt>
          <dd>{temp(mix.mix_degc)}{page.air.source === "default" ? say.common.assumed : ""}</dd>
          <dt>{say.mix.gelsAbout}</dt>
          <dd>{say.mix.afterTheHardener(duration(mix.pot.value))}</dd>
          <dt>{say.mix.useBy}</dt>
          <dd>{say.mix.afterTheHardener(duration(mix.use_by_s ?? 0))}</dd>
        </dl>
        <WhyNote why={mix.pot.why} />
      {/if}
      {#each ready as b, i (b.batch_id)}
        <div class="batch">
          {#if b.sheet_id !== sheetId}<p>{page.facts.sheets[b.sheet_id]?.name}</p>{/if}
          <b>{say.mix.batchOfLeft(i + 1, volume(b.left_ml), volume(b.total_ml))}</b>
          {#if b.use_by_at && b.gels_at}
            <p>
              {b.use_by_at > now
                ? say.mix.useByGelsAbout(when(b.use_by_at, now), when(b.gels_at, now))
                : b.gels_at > now
                  ? say.mix.pastItsPotLifeSince(when(b.use_by_at, now), when(b.gels_at, now))
                  : say.mix.gelledAbout(when(b.gels_at, now))}
            </p>
          {/if}
          {#each mix.as_poured.filter((x) => x.batch_id === b.batch_id) as x (x.batch_id)}
            <p class="mute">
              {say.cans.asPoured(percent(x.solids_frac), percent(x.thinner_frac))}{x.voc
                ? say.cans.vocAsPoured(show("voc", x.voc.value))
                : ""}.
            </p>
          {/each}
          {#if closing === b.batch_id}
            <CloseBatch {page} batch={b} gelled={(b.gels_at ?? Infinity) < now} done={() => (closing = "")} />
          {:else if session.mayWrite}<button class="btn small" onclick={() => (closing = b.batch_id)}>{say.mix.closeBatch}</button>{/if}
          <a class="btn small" href={`#/jobs/${page.head.id}/label?batch=${b.batch_id}`}>{say.paper.cupLabel}</a>
        </div>
      {/each}
      {#if page.plan?.batches.some((b) => b.sheet_id === sheetId)}
        <h2>{say.mix.plannedBatches}</h2>
        {#each page.plan.batches.filter((b) => b.sheet_id === sheetId) as b (b.key)}
          <p class="planned">
            <b>{when(b.mix_at, now)}</b>
            {say.mix.forCoat(volume(b.total_ml), b.draws.length, b.use_by_at ? say.mix.useBy2(when(b.use_by_at, now)) : "")}
          </p>
        {/each}
      {/if}
      {#if mix.never.length}
        <h2>{say.mix.doNotAdd}</h2>
        {#each [...new Set(mix.never.map((f) => f.why))] as why (why)}
          {@const told = mix.never.filter((f) => f.why === why)}
          <p class="never">
            <b
              >{told.map((f) => f.what.replace(say.mix.inLabel(mix!.sheet.name), "")).join(", ")}{told[0]!.severity === "warn"
                ? say.mix.avoid
                : ""}.</b
            >
            {why}
          </p>
        {/each}
      {/if}
      {#if mix.typical}<p class="mute">{say.mix.typicalValuesForThisType}</p>{/if}
    </aside>
  {/if}
</div>
{#if mix}
  <footer>
    <svg width="30" height="28" viewBox="0 0 26 24" aria-hidden="true"
      ><path d="M13 2L24.5 22H1.5Z" fill="none" stroke="currentColor" stroke-width="2.2" /><path
        d="M13 9v6M13 17.5v2"
        stroke="currentColor"
        stroke-width="2.4"
      /></svg
    >
    <p>{mix.sheet.hazards.map(inReadersWords).join(" ")}</p>
  </footer>
{/if}

<style>
  .mix {
    flex: 1;
    display: grid;
    grid-template-columns: 1fr 336px;
  }
  .cup {
    padding: 10px 24px;
    display: grid;
    gap: 8px;
    align-content: start;
    min-width: 0;
  }
  .pick {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
  }
  .pick label {
    font-size: 13.5px;
    font-weight: 640;
    width: 130px;
  }
  .ratio {
    display: flex;
    gap: 18px;
    align-items: center;
  }
  .ratio .num {
    font-size: 48px;
    white-space: nowrap;
  }
  .row {
    display: flex;
    gap: 10px;
  }
  .row .btn {
    min-height: 64px;
  }
  .warm {
    font-size: 13.5px;
    font-weight: 640;
    width: 210px;
  }
  .row input {
    width: 210px;
    min-height: 64px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  aside {
    border-left: 2px solid var(--ink);
    padding: 16px 20px;
    display: grid;
    gap: 8px;
    align-content: start;
  }
  dl {
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 5px 10px;
    font-size: 14.5px;
  }
  dd {
    font-weight: 680;
    text-align: right;
  }
  .sum {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    border-top: 2px solid var(--ink);
    padding-top: 6px;
  }
  .sum .num {
    font-size: 28px;
  }
  h2:not(:first-child) {
    margin-top: 10px;
    padding-top: 10px;
    border-top: 1px solid var(--rule);
  }
  .batch {
    border: 2px solid var(--ink);
    padding: 8px 10px;
    display: grid;
    gap: 4px;
    font-size: 14.5px;
  }
  .never {
    font-size: 14px;
    border-left: 4px solid var(--ink);
    padding-left: 8px;
  }
  .planned {
    font-size: 14.5px;
  }
  footer {
    position: sticky;
    bottom: 0;
    display: flex;
    gap: 14px;
    align-items: center;
    background: var(--ink);
    color: var(--on-ink);
    padding: 10px 24px;
  }
  footer svg {
    flex: none;
  }
  @media (max-width: 900px) {
    .mix {
      grid-template-columns: 1fr;
    }
    aside {
      border-left: 0;
      border-top: 2px solid var(--ink);
    }
    .cup {
      padding: 10px 16px;
    }
    .row {
      flex-wrap: wrap;
    }
  }
</style>
