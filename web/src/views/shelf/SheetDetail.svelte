<script lang="ts">
  /** One material in full: each value as its sheet has it, and what the shop pays for a pack. */
  import { inReadersWords, type Schemas } from "../../api/client";
  import { bare, duration, kelvin, percent, setup, show, um, volume } from "../../lib/format";
  import { keyed } from "../../lib/keyed";
  import { session } from "../../lib/session.svelte";
  import { surveyWords } from "../../lib/survey.svelte";
  import { say } from "../../words";
  import PurposeSaid from "./PurposeSaid.svelte";
  import Lots from "./Lots.svelte";
  import SheetForm from "./SheetForm.svelte";

  /** `prices`: as typed, by material and pack.  `keep` stores one.  `done`: the sheet was entered anew, in words. */
  type Props = {
    s: Schemas["SheetOut"];
    prices: Record<string, string>;
    keep: (material_id: string, pack: string) => Promise<void>;
    done: (text: string) => void;
  };
  let { s, prices = $bindable(), keep, done }: Props = $props();
  let editing = $state(false);
  const UNITS: Record<string, string> = { l: say.materials.litre, m: say.materials.metre, m2: say.materials.squareMetre };
  const NEXT: Record<string, string> = { same: say.materials.itself, any: say.materials.otherMaterials };
  /** What it is sold in: a pack of paint says what it makes, one of an aid only its name. */
  const packs = $derived.by((): { name: string; label: string }[] => {
    const currency = session.who?.currency ?? "";
    return [
      ...(s.sheet.packs ?? []).map((p) => ({ name: p.name, label: say.materials.makes(p.name, volume(p.makes_ml), currency) })),
      ...(s.sheet.aid?.packs ?? []).map((p) => ({ name: p.name, label: `${p.name}, ${currency}` })),
    ];
  });
  /** The film its times are given for, where it says so. */
  const atUm = $derived(s.sheet.points.find((p) => p.at_um)?.at_um ?? null);
  const PARTS: Record<string, string> = {
    components: say.common.mix.toLowerCase(),
    film: say.materials.filmPerCoat,
    coverage: say.common.coverage,
    pot: say.common.potLife,
    recoat: say.materials.recoat,
    limits: say.label.limits,
    "points.touch": say.label.touch,
    "points.handle": say.label.handle,
    "points.full": say.label.full,
  };
  /** What a product entered from its label has from there, and what is only typical for its kind. */
  const sourced = $derived(Object.keys(PARTS).flatMap((k) => (s.sheet.why?.[k] ? [[k, s.sheet.why[k]] as const] : [])));
  const isLabel = (ref: string): boolean => ref.endsWith(": label");
  const ofLabel = $derived(sourced.filter(([, w]) => isLabel(w.ref ?? "")).map(([k]) => PARTS[k]!));
  const stillTypical = $derived(
    sourced
      .filter(([k, w]) => !isLabel(w.ref ?? "") && (k !== "coverage" || s.sheet.coverage) && (k !== "film" || s.sheet.film))
      .map(([k]) => PARTS[k]!),
  );
  function edited(text: string): void {
    editing = false;
    done(text);
  }
</script>

<section>
  <div>
    <p class="grade">{s.sheet.grade === "typical" ? say.materials.typicalValuesTheProductsData : say.common.fromTheDataSheet}</p>
    <p class="acts">
      {#if session.who?.role === "owner"}<button class="btn small" aria-expanded={editing} onclick={() => (editing = !editing)}
          >{say.materials.enterProductData}</button
        >{/if}
      <a class="line" href={`/api/sheets/${s.sheet.id}`} download>{say.materials.downloadJson}</a>
    </p>
    {#if ofLabel.length}<p class="mute">
        {say.label.fromLabel}
        {ofLabel.join(", ")}. {say.label.stillTypical}
        {stillTypical.join(", ")}.
      </p>{/if}
    {#if s.sheet.claim}<p class="mute">
        {say.materials.claimedLife(inReadersWords(s.sheet.claim.text) || duration(s.sheet.claim.life_s))}
      </p>{/if}
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
              .map((c) => `${c.name.toLowerCase()} ${c.of === "ratio" ? c.parts : say.materials.of(Math.round(c.parts * 1000) / 10, c.of)}`)
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
      {#if atUm}<dt>{say.materials.timesFor}</dt>
        <dd>{say.materials.thickerTakesLonger(um(atUm))}</dd>{/if}
      <dt>{say.materials.recoat}</dt>
      <dd>
        {s.sheet.recoat
          .map(
            (r) =>
              `${NEXT[r.next] ?? surveyWords.family(r.next.replace("family:", ""))}: ${r.windows.map((w) => say.materials.to(w.tacky ? say.materials.whileTacky : "", duration(w.from_s), w.to_s ? duration(w.to_s) : say.common.noLimit)).join(", ")}`,
          )
          .join("; ")}
      </dd>
      <PurposeSaid sheet={s.sheet} />
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
    {#each keyed(packs, (p) => p.name) as { key: at, row: p } (at)}
      {@const key = `${s.sheet.material_id}/${p.name}`}
      <form
        onsubmit={(e) => {
          e.preventDefault();
          void keep(s.sheet.material_id, p.name);
        }}
      >
        <label
          >{p.label}<input
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
    {#each s.sheet.hazards ?? [] as h, i (i)}<p class="haz">{inReadersWords(h)}</p>{/each}
    {#if !s.sheet.aid}<Lots materialId={s.sheet.material_id} />{/if}
  </div>
  {#if editing}<SheetForm sheet={s.sheet} done={edited} />{/if}
</section>

<style>
  section {
    display: grid;
    grid-template-columns: 210px 1fr 340px;
    gap: 20px;
    padding: 6px 12px 16px;
    font-size: 14.5px;
  }
  dl {
    display: grid;
    grid-template-columns: 84px 1fr;
    gap: 3px 10px;
    align-content: start;
  }
  dl :global(dt) {
    color: var(--ink2);
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
  @media (max-width: 900px) {
    section {
      grid-template-columns: 1fr;
    }
  }
</style>
