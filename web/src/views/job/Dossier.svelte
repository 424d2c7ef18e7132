<script lang="ts">
  /** The record of a job as it is handed over: survey, damage, stack, checks, coats, service.  Made to be printed. */
  import { Answer } from "../../lib/answer.svelte";
  import { api, inReadersWords, type JobPage, type Schemas } from "../../api/client";
  import { area, bare, clockTime, date, duration, kelvin, percent, show, stamp, system, temp, um, unit } from "../../lib/format";
  import { GATES, gateName } from "../../lib/gates";
  import { pages, printed } from "../../lib/paper";
  import Films from "./Films.svelte";
  import Mixes from "./Mixes.svelte";
  import Pinned from "./Pinned.svelte";
  import { cards } from "../../lib/cards";
  import { serverClock } from "../../lib/clock.svelte";
  import { session } from "../../lib/session.svelte";
  import { surveyWords } from "../../lib/survey.svelte";
  import Found from "../../ui/Found.svelte";
  import JobWords from "./JobWords.svelte";
  import { say } from "../../words";

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
    names.length === parts.length && names.length > 1 ? say.record.allParts(names.length) : names.join(", ");
  const choices = $derived(page.facts.choices ?? {});
  const asks = $derived(
    [
      [say.common.requiredFinish, (choices.wanted ?? "").replaceAll(" ", ", ")],
      [say.record.requiredLife, choices.life_s ? duration(Number(choices.life_s)) : ""],
      [say.common.backInUseWithin, choices.ready_s ? duration(Number(choices.ready_s)) : ""],
      [say.record.surfacePreparation, (choices.prep ?? "").replaceAll("_", " ").replaceAll("+", say.common.then)],
      ...Object.entries(choices)
        .filter(([k]) => k.startsWith("way."))
        .map(([k, v]) => [k.slice(4).replaceAll("_", " "), v]),
      [
        say.common.rejectedOption,
        choices.rejected ? `${choices.rejected}${choices.rejected_why ? say.record.because(choices.rejected_why) : ""}` : "",
      ],
    ].filter(([, v]) => v) as [string, string][],
  );
  /** Gates of any part, in the order in which they come. */
  const gates = $derived(GATES.filter((name) => page.state.parts.some((p) => p.gates.some((g) => g.name === name))));
  function passed(part: JobPage["state"]["parts"][number], name: string): string {
    const g = part.gates.find((x) => x.name === name);
    if (!g) return say.common.none;
    if (g.failed_at) return say.paper.failed(stamp(g.failed_at));
    return g.late_at == null ? say.cure.willNotCureAtThis : `${date(g.late_at)}, ${clockTime(g.late_at)}`;
  }
  /** What the materials ask for in service, in words. */
  const every = (c: Schemas["CareLine"]): string =>
    c.every_s ? say.paper.firstThen(duration(c.after_s), duration(c.every_s)) : say.paper.once(duration(c.after_s));
  let sheet = $state<HTMLElement>();
  /** How far the file is; empty: none is being made. */
  let making = $state("");
  let fault = $state("");
  async function file(): Promise<void> {
    fault = "";
    making = say.paper.making;
    try {
      const { pdfOf } = await import("../../lib/pdf");
      const newest = Math.max(0, ...page.log.map((e) => e.at));
      const blob = await pdfOf(sheet!, {
        title: `${page.head.title}, ${page.head.asset}`,
        foot: say.paper.foot(session.who?.shop ?? "", page.head.title),
        at: newest,
        size: system() === "us" ? "LETTER" : "A4",
        said: (done, of) => (making = of ? say.paper.pictures(done, of) : say.paper.making),
      });
      const link = document.createElement("a");
      link.href = URL.createObjectURL(blob);
      link.download = `${page.head.title}.pdf`;
      link.click();
      URL.revokeObjectURL(link.href);
    } catch (error) {
      fault = error instanceof Error && error.name === "CannotWrite" ? say.paper.otherLetters(error.message) : say.paper.noFile;
    }
    making = "";
  }
  $effect(() => pages(say.paper.foot(session.who?.shop ?? "", page.head.title)));
  const FROM: Record<string, string> = {
    plan: say.record.fromThePlan,
    draw: say.record.fromThePaintUsed,
    wet: say.record.fromTheWetFilmGauge,
    gauge: say.record.fromTheDftReading,
  };
  /** Findings stand next to the coat they are about; those of a mix or a part by themselves. */
  /** Each figure nobody read says so, where it stands. */
  const guessed = (c: Schemas["CoatLine"]): string => (c.air_from === "default" || c.air_from === "typical" ? say.common.assumed : "");
  const ofCoat = (id: string) => (page.state.findings ?? []).filter((f) => f.coat_id === id);
  const others = $derived((page.state.findings ?? []).filter((f) => !doc?.coats.some((c) => c.coat_id === f.coat_id)));
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

<div class="dossier" bind:this={sheet}>
  <div class="ttl">
    <div>
      <p class="shop">{session.who?.shop}</p>
      <h2>{say.common.jobRecord}</h2>
      <p>
        {say.record.logUpToEntry(
          [page.head.title, page.head.asset, page.head.mark, page.head.paint_code, page.head.customer].filter(Boolean).join(", "),
          page.state.through_seq,
        )}
        <span data-now>{say.record.asOf(stamp(serverClock.now), session.who?.time_zone ?? "UTC")}</span>
      </p>
    </div>
    <span class="tools"
      ><button class="btn small" onclick={printed}>{say.paper.printOrPdf}</button>
      <button class="btn small" disabled={!doc || Boolean(making)} onclick={file}>{making || say.paper.pdfFile}</button>
      <a class="btn small" href={`#/jobs/${page.head.id}/handover`}>{say.paper.handover}</a>
      <a class="btn small" href={`/api/jobs/${page.head.id}/export`} download>{say.record.exportJobJson}</a>
      <a class="btn small" href={`/api/jobs/${page.head.id}/entries.csv`} download>{say.record.exportLogCsv}</a></span
    >
  </div>
  {#each [refusal, fault].filter(Boolean) as text (text)}<p class="refusal" role="alert"><b>{text}</b></p>{/each}
  <section>
    <h3>{say.record.conditionOnArrival}</h3>
    <table class="cards" {@attach cards}>
      <thead
        ><tr
          ><th>{say.common.partLabel}</th><th>{say.common.area}</th><th>{say.common.surfaceCondition}</th><th
            >{say.common.hasToWithstand}</th
          ><th>{say.record.damageReported}</th></tr
        ></thead
      >
      <tbody
        >{#each parts as p (p.id)}<tr
            ><td><b>{p.name}</b>{p.count > 1 ? ` × ${p.count}` : ""}</td><td>{area(p.area_m2 * p.count)}</td><td
              >{[
                surveyWords.surface(p.substrate),
                p.condition,
                p.bare_mm ? say.record.bareSpotsUpTo(show("mm", p.bare_mm)) : "",
                ...(p.features ?? []).filter((x) => x !== "none").map(surveyWords.feature),
              ]
                .filter(Boolean)
                .join(", ")}</td
            ><td>{(p.must_survive ?? []).map(surveyWords.exposure).join(", ") || say.common.noneGiven}</td><td
              >{p.damage || say.common.none}</td
            ></tr
          >{/each}</tbody
      >
    </table>
  </section>
  <section>
    <h3>{say.common.damageFoundBeforeWork}</h3>
    <ul class="found">
      {#each damage as r (r.entry_id)}<li>
          {#if r.photo_id}<Pinned
              id={r.photo_id}
              across={r.across_frac ?? 0.5}
              down={r.down_frac ?? 0.5}
              alt={`${r.part}: ${r.text}`}
            />{/if}
          <p><b>{r.part}.</b> {r.text}</p>
          <p class="mute">{at(r.at)}{r.before_work ? "" : say.common.addedAfterWorkHadStarted}</p>
        </li>{:else}<li class="mute">
          {parts.some((p) => p.damage) ? say.record.noneInTheSurvey : say.record.noneRecorded}
        </li>{/each}
    </ul>
  </section>
  <section>
    <h3>{say.common.coatingSystem}</h3>
    {#if asks.length}<dl>
        {#each asks as [k, v] (k)}<dt>{k}</dt>
          <dd>{v}</dd>{/each}
      </dl>{/if}
    <table class="cards" {@attach cards}>
      <thead
        ><tr
          ><th>{say.common.partLabel}</th><th>{say.record.layer}</th><th>{say.common.material}</th><th>{say.common.coats}</th><th
            >{say.record.targetDft}</th
          ><th>{say.common.dataSheet}</th></tr
        ></thead
      >
      <tbody
        >{#each layers as { names, l, sheet } (l.id)}<tr
            ><td>{named(names)}</td><td>{l.position + 1}</td><td><b>{sheet.name}</b>, {inReadersWords(sheet.kind)}</td><td
              >{l.coats}{l.patches ? `, ${say.system.onPatches(l.patches.n, area(l.patches.area_m2))}` : ""}</td
            ><td>{l.target_um ? um(l.target_um) : say.common.noFilmBuild}</td><td
              >{sheet.grade === "typical" ? say.record.typicalValues : say.record.itsOwnSheet}</td
            ></tr
          >{/each}</tbody
      >
    </table>
  </section>
  {#if doc}
    <section>
      <h3>{say.record.checks}</h3>
      {#if told.length}<table class="cards" {@attach cards}>
          <thead
            ><tr
              ><th>{say.common.partLabel}</th><th>{say.record.step}</th><th>{say.record.check}</th><th>{say.record.result}</th><th
                >{say.record.whenWho}</th
              ></tr
            ></thead
          >
          <tbody
            >{#each told as c, i (i)}<tr class:bad={!c.held}
                ><td>{named(c.names)}</td><td><b>{c.step}</b></td><td>{c.check}</td><td>{c.held ? say.common.pass : say.common.fail}</td><td
                  >{c.at ? at(c.at) : ""}, {c.who}</td
                ></tr
              >{/each}</tbody
          >
        </table>{/if}
      {#if !doc.steps_logged}<p class="mute">{say.record.stepsNotLogged}</p>
      {:else if unlooked}<p class="mute">{say.record.stepWasNotSignedOff(unlooked)}</p>{/if}
    </section>
    <section>
      <h3>{say.common.coats}</h3>
      {#if doc.coats.length}<div class="scroll">
          <table class="cards" {@attach cards}>
            <thead
              ><tr
                ><th>{say.common.partLabel}</th><th>{say.record.coat}</th><th>{say.record.startedWho}</th><th>{say.record.took}</th><th
                  >{say.record.plannedDft(unit("um"))}</th
                ><th>{say.record.measuredDft(unit("um"))}</th><th>{say.common.surface}</th><th>{say.common.humidity}</th><th
                  >{say.record.aboveDewPoint}</th
                ></tr
              ></thead
            >
            <tbody
              >{#each doc.coats as c, i (i)}<tr
                  ><td>{c.part}</td><td><b>{c.material} {c.n}</b></td><td>{at(c.started_at)}, {c.who}{c.gun ? `, ${c.gun}` : ""}</td><td
                    >{c.done_at ? duration(c.done_at - c.started_at) : say.common.inProgress}</td
                  >
                  <td>{c.planned_um == null ? say.common.none : bare("um", c.planned_um)}</td>
                  <td
                    >{c.dry_likely_um == null
                      ? c.planned_um == null
                        ? say.common.none
                        : say.record.notMeasured
                      : say.record.to(
                          bare("um", c.dry_likely_um),
                          bare("um", c.dry_low_um ?? 0),
                          bare("um", c.dry_high_um ?? 0),
                          FROM[c.dry_from] ?? c.dry_from,
                        )}{#if c.combed}<br /><span class="mute"
                        >{say.record.combed(c.combed.n, um(c.combed.mean_um), um(c.combed.lowest_um))}</span
                      >{/if}</td
                  ><td>{temp(c.surface_degc)}{guessed(c)}</td><td>{percent(c.rh_frac)}{guessed(c)}</td><td
                    >{kelvin(c.margin_k)}{guessed(c)}</td
                  ></tr
                >{#if ofCoat(c.coat_id).length}<tr class="wrong"><td colspan="9"><Found {page} findings={ofCoat(c.coat_id)} /></td></tr
                  >{/if}{/each}</tbody
            >
          </table>
        </div>
      {:else}<p class="mute">{say.record.noCoatsYet}</p>{/if}
    </section>
    {#if doc.mixes.length}
      <section>
        <h3>{say.record.mixes}</h3>
        <Mixes mixes={doc.mixes} />
      </section>
    {/if}
    {#if doc.films.length}
      <section>
        <h3>{say.films.title(unit("um"))}</h3>
        <Films films={doc.films} />
      </section>
    {/if}
    {#if others.length}
      <section>
        <h3>{say.found.title}</h3>
        <Found {page} findings={others} />
      </section>
    {/if}
    {#if doc.said.length || page.state.flags.length}
      <section>
        <h3>{say.record.notesAndEvents}</h3>
        {#each doc.said as s, i (i)}<p>
            <b>{(say.said as Record<string, string>)[s.kind] ?? s.kind}.</b>
            {parts.find((p) => p.id === s.part_id)?.name ?? ""}
            {s.text} <span class="mute">{at(s.at)}, {s.who}</span>
          </p>
          {#if s.photo_ids.length}<p class="pictures">
              {#each s.photo_ids as id (id)}<img src={`/api/photos/${id}`} alt={s.text} loading="lazy" />{/each}
            </p>{/if}{/each}
        {#each page.state.flags as f, i (i)}<p class="flag"><b>{say.common.attention}</b> {f.text}</p>{/each}
      </section>
    {/if}
    {#if doc.pictures.length}
      <section>
        <h3>{say.paper.beforeAndAfter}</h3>
        {#each doc.pictures as x (x.part)}<div class="pair">
            <p><b>{x.part}</b></p>
            {#each [[x.before_id, say.paper.asItCame, x.before_at], [x.after_id, say.paper.asItWent, x.after_at]] as const as [id, word, when] (word)}<figure
              >
                <img src={`/api/photos/${id}`} alt={`${x.part}: ${word}`} />
                <figcaption>{word}, {at(when)}</figcaption>
              </figure>{/each}
          </div>{/each}
      </section>
    {/if}
    {#if page.state.service?.length}
      <section>
        <h3>{say.common.inService}</h3>
        {#each page.state.service as x, i (i)}<p>
            <b>{parts.find((p) => p.id === x.part_id)?.name ?? say.common.part}</b>{say.record.inServiceSince(
              date(x.in_service_at),
              x.claim_until_at ? say.record.claimedLifeUntil(date(x.claim_until_at)) : say.record.noClaimedLife,
              x.ended_at ? say.record.ended(date(x.ended_at), x.ended_how) : "",
            )}
          </p>{/each}
      </section>
    {/if}
  {/if}
  {#if gates.length}
    <section>
      <h3>{say.paper.allowedWhen}</h3>
      <table class="cards" {@attach cards}>
        <thead
          ><tr
            ><th>{say.common.partLabel}</th>{#each gates as g (g)}<th>{gateName(g)}</th>{/each}</tr
          ></thead
        >
        <tbody
          >{#each page.state.parts.filter((p) => p.gates.length) as p (p.part_id)}<tr
              ><td><b>{parts.find((x) => x.id === p.part_id)?.name}</b></td>{#each gates as name (name)}<td>{passed(p, name)}</td
                >{/each}</tr
            >{/each}</tbody
        >
      </table>
    </section>
  {/if}
  {#if doc?.care.length}
    <section>
      <h3>{say.paper.care}</h3>
      {#each doc.care as c, i (i)}<p>
          <b>{c.what}</b>
          {every(c)} <span class="mute">{c.sheet}{c.usual ? `. ${say.service.usual}` : ""}</span>
        </p>{/each}
    </section>
  {/if}
  <section class="sign">
    <p>{say.paper.handedOver}</p>
    <p>{say.paper.takenOver}</p>
  </section>
  <JobWords {page} />
  <p class="mute hash">
    {say.record.typicalValuesApplyOnlyUntil}
    {#if doc}{say.paper.log(doc.through_seq, doc.log_sha256)}{/if}
  </p>
</div>

<style>
  .pair {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 4px 12px;
    break-inside: avoid;
    margin-bottom: 10px;
  }
  .pair p {
    grid-column: 1 / -1;
  }
  .pair figure {
    margin: 0;
  }
  .pair img {
    width: 100%;
    max-height: 320px;
    object-fit: contain;
    object-position: left;
  }
  .dossier {
    padding: 16px 24px 32px;
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 14px;
    align-content: start;
    max-width: 1180px;
  }
  .hash {
    overflow-wrap: anywhere;
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
  .pictures {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .pictures img {
    max-height: 180px;
    max-width: 100%;
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
  .shop {
    font-weight: 760;
    font-size: 18px;
  }
  .sign {
    grid-template-columns: 1fr 1fr;
    gap: 32px;
    margin-top: 56px;
    border-top: 0;
  }
  .sign p {
    border-top: 1.5px solid var(--ink);
    padding-top: 4px;
    font-size: 13px;
  }
  @media print {
    .dossier {
      padding: 0;
      max-width: none;
    }
    /* A grid is not cut between pages where its rows end. */
    .dossier,
    section:not(.sign) {
      display: block;
    }
    section {
      margin-top: 14px;
    }
    .sign {
      break-inside: avoid;
    }
  }
</style>
