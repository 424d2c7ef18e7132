<script lang="ts">
  /** What the finish is to be, and the best few stacks the shelf holds for it, side by side with why not others. */
  import { untrack } from "svelte";
  import { api, type Schemas } from "../api/client";
  import LayerSection from "../figures/LayerSection.svelte";
  import { Answer } from "../lib/answer.svelte";
  import type { Draft, Side } from "../lib/draft.svelte";
  import { duration, money, show, system, um, unit } from "../lib/format";
  import { toShown } from "../lib/units";
  import { vouched } from "../lib/warrants";
  import { surveyWords } from "../lib/survey.svelte";
  import AskFact from "../ui/AskFact.svelte";
  import Stop from "../ui/Stop.svelte";
  import Choices from "./Choices.svelte";
  import WorkList from "../ui/WorkList.svelte";
  import { say } from "../words";

  /** `unasked`: offers come by themselves where what is wanted is known; elsewhere they would push what is being tapped. */
  type Props = { draft: Draft; side: Side; unasked?: boolean };
  let { draft, side, unasked = false }: Props = $props();
  const told = new Answer<Schemas["SuggestOut"]>();
  const question = $derived({
    parts: draft.rough(),
    wanted: draft.wanted,
    place_id: draft.place || null,
    asset_kind: draft.kind,
    life_s: Number(draft.life) || null,
    ready_s: Number(draft.within) || null,
  });
  /** What a part is called changes nothing of what goes on it. */
  const NAMES = ["name", "set_name", "damage", "shape_text"];
  const about = $derived(JSON.stringify(question, (k, v: unknown) => (NAMES.includes(k) ? undefined : v)));
  let askedAbout = $state("");
  /** What was offered for another surface, or with other wishes, is no offer for this one. */
  const answer = $derived(askedAbout === about ? told.data : null);
  const DAY = 86400;
  const LIVES: [string, string][] = [
    ["", say.suggest.noRequirement],
    [String(150 * DAY), say.suggest.aSeason],
    [String(365 * DAY), say.suggest.aYear],
    [String(3 * 365 * DAY), say.suggest.threeYears],
    [String(5 * 365 * DAY), say.suggest.fiveYears],
    [String(10 * 365 * DAY), say.suggest.tenYears],
  ];
  const TIMES: [string, string][] = [
    ["", say.suggest.noDeadline],
    [String(4 * 3600), say.suggest.fourHours],
    [String(DAY), say.suggest.aDay],
    [String(3 * DAY), say.suggest.threeDays],
    [String(7 * DAY), say.suggest.aWeek],
    [String(30 * DAY), say.suggest.aMonth],
  ];
  const MISSES: Record<string, string> = { life: say.suggest.shorterLifeThanRequired, time: say.suggest.notReadyInTheTime };
  let open = $state<number | null>(null);
  let said = $state<number | null>(null);
  /** Questions that stop the work until they are answered, each once. */
  const asked = $derived([
    ...new Map((answer?.best ?? []).flatMap((c) => c.findings.filter((f) => f.asks).map((f) => [f.asks, f] as const))).values(),
  ]);
  /** What a part may be or hide, and that it is none of it: asked where it stops the work. */
  const hiding = $derived.by(() => {
    const words = draft.featuresAsked(draft.common("features"));
    const group = words.find((w) => w.id === "none")?.group;
    return words.filter((w) => w.group === group);
  });
  function tell(id: string): void {
    draft.tickAll("features", id);
    ask();
  }
  function again(): void {
    draft.answers += 1;
    ask();
  }
  const STANDS: Record<string, number> = { unsaid: 0, no: 1, for_a_time: 2, accepted: 3, vouched: 4 };
  /** In a word, how far it is vouched for: as far as the weakest of it. */
  const weakest = (c: Schemas["CandidateOut"]) =>
    c.warrants.reduce((low, w) => (STANDS[w.standing]! < STANDS[low]! ? w.standing : low), "vouched" as Schemas["Warrant"]["standing"]);
  const groundOf = (c: Schemas["CandidateOut"]) =>
    c.prep_words.length ? c.prep_words.join(say.common.then) : surveyWords.surface(draft.partsOf()[0]?.substrate ?? "");
  const group = $derived(draft.survey?.substrates.find((s) => s.id === draft.partsOf()[0]?.substrate)?.group ?? "");

  function toggle(id: string): void {
    draft.wanted = draft.wanted.includes(id) ? draft.wanted.filter((x) => x !== id) : [...draft.wanted, id];
  }
  function ask(): void {
    open = said = null;
    const [body, asked] = [question, about];
    void told
      .ask(() => api.POST("/api/suggest", { body }))
      .then((data) => {
        if (data) askedAbout = asked; // until then the last answer is one to another question
      });
  }
  const section = (c: Schemas["CandidateOut"]) =>
    c.layers.flatMap((l) => {
      const sheet = draft.sheet(l.sheet_id);
      return sheet ? [{ sheet, coats: l.coats, um: l.target_um ?? 0 }] : [];
    });
  /** All of them are drawn to the scale of the tallest. */
  const tallest = $derived(Math.max(1, ...(answer?.best ?? []).map((c) => section(c).reduce((sum, l) => sum + l.um, 0))));
  function take(c: Schemas["CandidateOut"]): void {
    draft.take(side, c);
    // A usual thing of more than one system: what the next of them gets is asked at once.
    const bare = draft.taken ? draft.systems.findIndex((s) => !s[s.chosen].length) : -1;
    if (bare < 0) return;
    draft.at = bare;
    ask();
  }
  // What is wanted is known already, from a usual thing for one: then nobody has to ask.
  $effect(() => {
    if (
      unasked &&
      draft.survey &&
      draft.shelf.length &&
      question.wanted.length &&
      !untrack(() => told.data || told.waiting) &&
      !draft.a.length
    )
      untrack(ask);
  });
  // A usual thing was taken, above: what lies under the finger there is not pushed away by what comes in here.
  $effect(() => {
    if (draft.taken && draft.shelf.length) untrack(() => question.wanted.length && !draft[side].length && ask());
  });
  function chooseWay(id: string, way: string): void {
    if (draft.ways[id] === way) delete draft.ways[id];
    else draft.ways[id] = way;
  }
  const taken = (c: Schemas["CandidateOut"]) =>
    draft.prep[side] === c.prep && draft[side].map((l) => l.sheet_id).join() === c.layers.map((l) => l.sheet_id).join();
  /** What is done to the surface before the first coat, where no way of preparing has a name. The washing before it is
   * left to the steps: a narrow column tells how the surface is cut, or how it is cleaned where nothing cuts it. */
  const readied = (c: Schemas["CandidateOut"]): string => {
    const before = c.work.filter((w) => w.position === -1);
    const named = (...kinds: string[]) => [...new Set(before.filter((w) => kinds.includes(w.kind)).map((w) => w.name))].join(", ");
    return named("strip", "abrade") || named("clean") || say.suggest.asFound;
  };
</script>

<div class="suggest">
  <Choices title={say.common.requiredFinish} words={draft.survey?.finishes ?? []} picked={draft.wanted} {toggle} />
  <div class="row">
    <label
      >{say.suggest.minimumLife}
      <select bind:value={draft.life}
        >{#each LIVES as [s, words] (s)}<option value={s}>{words}</option>{/each}</select
      ></label
    >
    <label
      >{say.common.backInUseWithin}
      <select bind:value={draft.within}
        >{#each TIMES as [s, words] (s)}<option value={s}>{words}</option>{/each}</select
      ></label
    >
  </div>
  <div class="row">
    <button type="button" class="btn" disabled={told.waiting || !draft.wanted.length} onclick={ask}
      >{told.waiting ? say.suggest.searching : say.suggest.suggestSystems}</button
    >
    {#if answer}<p class="mute">
        {say.suggest.passEveryRule(
          answer.legal === 0 ? say.suggest.none : answer.legal,
          answer.legal > answer.best.length ? say.suggest.theBestSideBySide(answer.best.length) : "",
        )}
      </p>{/if}
  </div>
  {#if told.problem}<p class="none" role="alert"><b>{told.problem}</b></p>
  {:else if told.data && !answer && !told.waiting}<p class="mute">
      {say.suggest.theSurfaceOrTheRequirements}
    </p>{/if}
  {#each answer?.before ?? [] as id (id)}<p class="before"><b>{say.before[id]}</b></p>{/each}
  {#each asked as f (f.asks)}
    <Stop what={f.what} why={f.why} instead={f.instead} />
    {#if f.asks !== "features"}<AskFact fact={f.asks!} question={f.instead} answered={again} />
    {:else}<Choices title={say.surveyForm.answerThis} words={hiding} picked={[]} toggle={tell} />{/if}
  {/each}
  {#if answer?.missing}<p class="none"><b>{answer.missing}</b></p>{/if}
  {#if answer?.best.length}
    <div class="best">
      {#each answer.best as c, i (c.prep + c.layers.map((l) => l.sheet_id).join())}
        <article class:taken={taken(c)}>
          <h3>
            {section(c)
              .map((l) => l.sheet.name)
              .join(", ")}
          </h3>
          <div class="drawn">
            <LayerSection
              layers={section(c)}
              substrate={c.prep_words.length ? c.prep_words.join(say.common.then) : say.suggest.asFound}
              {group}
              narrow
              scale_um={tallest}
              joins={[]}
            />
          </div>
          <dl>
            <dt>{say.suggest.coatsTotalDft}</dt>
            <dd>
              {c.layers.map((l) => l.coats).join(" + ")}{section(c).some((l) => l.um)
                ? `, ${um(section(c).reduce((sum, l) => sum + l.um, 0))}`
                : ""}
            </dd>
            <dt>{say.suggest.preparation}</dt>
            <dd>{c.prep_words.length ? c.prep_words.join(say.common.then) : readied(c)}</dd>
            <dt>{say.suggest.readyForUseAfter}</dt>
            <dd>{duration(c.ready_s)}</dd>
            <dt>{c.lived ? say.suggest.lifeMeasuredHere : say.common.claimedLife}</dt>
            <dd>{c.life_s == null ? say.common.notStated : duration(c.life_s)}</dd>
            <dt>{say.suggest.paintPerM(unit("m2"))}</dt>
            <dd>{c.cost_per_m2 == null ? say.common.priceNotSet : money(c.cost_per_m2 / toShown("m2", 1, system()))}</dd>
            {#if c.cost_a_year != null}<dt>{say.suggest.aYear2(unit("m2"))}</dt>
              <dd>{money(c.cost_a_year / toShown("m2", 1, system()))}</dd>{/if}
            <dt>{say.common.respiratoryProtection}</dt>
            <dd>{c.air_fed ? say.common.airFedMask : say.common.seeTheDataSheet}</dd>
            <dt>{say.warrants.title}</dt>
            <dd>{say.warrantShort[weakest(c)]}</dd>
          </dl>
          {#each c.layers.filter((l) => l.patches) as l (l.sheet_id)}<p class="usual">
              {say.suggest.onPlaces(draft.sheet(l.sheet_id)?.name ?? "", l.patches?.n ?? 1, show("mm", l.patches?.across_mm ?? 0, 0))}
            </p>{/each}
          {#if c.usual}<p class="usual">{say.warrants.usual}</p>{/if}
          {#each c.misses as m, i (i)}<p class="warn"><b>{MISSES[m]}</b> {say.suggest.noPermittedMaterialOnYour}</p>{/each}
          {#each c.findings.filter((f) => f.severity === "warn") as f, i (i)}<p class="warn">
              <b>{say.suggest.caution(f.what)}</b>
              {f.instead}
            </p>{/each}
          <div class="row">
            <button type="button" class="btn small" class:go={taken(c)} aria-pressed={taken(c)} onclick={() => take(c)}
              >{taken(c) ? say.common.selected : say.suggest.useThis}</button
            >
            <button type="button" class="btn small" aria-expanded={open === i} onclick={() => (open = open === i ? null : i)}
              >{say.suggest.steps(c.work.length)}</button
            >
            <button type="button" class="btn small" aria-expanded={said === i} onclick={() => (said = said === i ? null : i)}
              >{say.warrants.who}</button
            >
          </div>
        </article>
      {/each}
    </div>
    {#if said !== null && answer.best[said]}
      {@const c = answer.best[said]!}
      <ul class="who" aria-label={say.warrants.who}>
        {#each c.warrants as w, i (i)}<li>
            {vouched(
              w,
              section(c).map((l) => l.sheet.name),
              groundOf(c),
            )}
          </li>{/each}
      </ul>
    {/if}
    {#if open !== null && answer.best[open]}<WorkList steps={answer.best[open]!.work.map((work) => ({ work, held: null }))} />{/if}
  {/if}
  {#if answer?.alternatives.length && answer.best.length}
    <details>
      <summary>{say.common.alternativeMethods}</summary>
      <p class="mute">{say.suggest.bothAreAcceptedPracticeYour}</p>
      {#each answer.alternatives as s (s.id)}
        <div class="alternative" role="group" aria-label={s.ask}>
          <b>{s.ask}</b>
          {#each s.ways as w (w.name)}<p>
              <button
                type="button"
                class="btn small"
                class:go={draft.ways[s.id] === w.name}
                aria-pressed={draft.ways[s.id] === w.name}
                onclick={() => chooseWay(s.id, w.name)}>{w.name}</button
              >
              {w.wins}
            </p>{/each}
        </div>
      {/each}
    </details>
  {/if}
  {#if answer?.rejected.length}
    <details open={!answer.best.length}>
      <summary>{say.suggest.whyOthersWereRuledOut}</summary>
      {#each answer.rejected as r, i (i)}<p><b>{r.names.join(", ")}.</b> {r.why} {r.instead}</p>{/each}
    </details>
  {/if}
</div>

<style>
  .suggest {
    display: grid;
    gap: 10px;
    border-bottom: 1px solid var(--rule);
    padding-bottom: 12px;
  }
  .row {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .best {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
    gap: 12px;
    align-items: stretch;
  }
  article {
    border: 1px solid var(--edge);
    padding: 10px;
    display: grid;
    gap: 8px;
    align-content: start;
    min-width: 0;
  }
  article.taken {
    box-shadow: inset 0 4px var(--ink);
  }
  h3 {
    font-size: 17px;
    line-height: 1.15;
    min-height: 2.3em;
  }
  .drawn {
    height: 230px;
    display: grid;
    background: var(--field);
  }
  .drawn :global(svg) {
    height: 230px;
  }
  dl {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 2px 10px;
    font-size: 14px;
    margin: 0;
  }
  dt {
    color: var(--ink2);
  }
  dd {
    margin: 0;
    font-weight: 620;
  }
  .warn {
    border-left: 6px solid var(--ink);
    padding-left: 8px;
    font-size: 14px;
  }
  .usual {
    font-size: 14px;
    font-weight: 620;
  }
  .before {
    border-left: 6px solid var(--edge);
    padding-left: 10px;
  }
  .who {
    font-size: 14px;
    display: grid;
    gap: 4px;
    padding-left: 18px;
  }
  .none {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .alternative {
    border-top: 1px solid var(--rule);
    padding: 8px 0;
  }
  details p {
    margin: 6px 0;
    font-size: 14px;
  }
  summary {
    font-weight: 640;
    min-height: 32px;
  }
</style>
