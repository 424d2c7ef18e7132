<script lang="ts">
  /** Now: what every live job waits for, latest safe start first. */
  import { api, inWords, type Schemas } from "../../api/client";
  import Lane from "../../figures/Lane.svelte";
  import { pieceScale, ticks } from "../../figures/scale";
  import { Answer } from "../../lib/answer.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { clockTime, duration, volume, when } from "../../lib/format";
  import { keyed } from "../../lib/keyed";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import Leave from "../../ui/Leave.svelte";
  import StateTag from "../../ui/StateTag.svelte";
  import { judged } from "../../lib/judged";
  import { currentView } from "../../lib/pick";
  import { actBy, stepWord } from "../../lib/actions";
  import { gateName } from "../../lib/gates";
  import { say } from "../../words";

  const told = new Answer<Schemas["NowPage"]>();
  const page = $derived(told.data);
  let box = $state(900);
  const HEAD = 540;
  /** Only what stands in one place; empty: all of it. */
  let place = $state("");
  /** Only what the plan gives to one painter, counted from 0; empty: to any. */
  let person = $state("");
  let dueJobs = $state(40);
  const now = $derived(serverClock.now);
  const width = $derived(Math.max(260, box - HEAD));
  const scale = $derived(pieceScale([[now - 2 * 3600, now + 4 * 3600, 1]], width));
  const marks = $derived(ticks(scale));

  async function ask(): Promise<void> {
    await told.ask(() => api.GET("/api/now", { params: { query: { due_jobs: dueJobs } } }));
    if (told.status === 401) session.lost();
  }
  $effect(() => {
    void outbox.taken;
    void ask();
    const timer = setInterval(() => void ask(), 15000);
    return () => clearInterval(timer);
  });

  type Row = {
    key: string;
    job: Schemas["NowLine"];
    partId: string;
    name: string;
    what: string;
    state: string | null;
    word: string;
    big: string;
    note: string;
    rank: number;
  };
  /** The first thing the plan still has for a part. */
  const first = (job: Schemas["NowLine"], partId: string): Schemas["Task"] | undefined =>
    (job.plan?.tasks ?? [])
      .filter((t) => t.part_id === partId && t.kind !== "mix" && t.kind !== "setup" && t.kind !== "clean" && t.end_at > now)
      .toSorted((a, b) => a.start_at - b.start_at)[0];
  const people = $derived(
    [...new Set((page?.lines ?? []).flatMap((l) => (l.plan?.tasks ?? []).map((t) => t.painter)))].toSorted((a, b) => a - b),
  );
  /** Who is at a coat. */
  const atIt = (job: Schemas["NowLine"], coatId: string): string => {
    const by = job.doing?.find((d) => d.coat_id === coatId)?.by;
    return by ? say.phone.isCoating(by) : say.common.coatInProgress;
  };
  const rows = $derived.by((): Row[] => {
    const out: Row[] = [];
    for (const job of page?.lines ?? []) {
      if (place && job.head.place !== place) continue;
      for (const part of job.state.parts) {
        const p = job.facts.parts.find((x) => x.id === part.part_id)!;
        if (person && first(job, part.part_id)?.painter !== Number(person)) continue;
        const task = job.state.next.find((t) => t.part_id === part.part_id);
        const shown = currentView(part, now);
        const running = part.films.at(-1)?.done_at === null ? part.films.at(-1)! : null;
        const layer = job.facts.layers.find((l) => l.id === (running?.layer_id ?? task?.layer_id));
        const open = !task?.opens_at || task.opens_at <= now;
        const gate = part.gates.filter((g) => (g.late_at ?? 0) > now).toSorted((a, b) => (a.late_at ?? 0) - (b.late_at ?? 0))[0];
        const by = actBy(task);
        const then = task?.kind === "then" ? stepWord(task.steps[0] ?? "") : "";
        const act = task?.kind === "unmask" ? say.common.unmask : then || say.common.startInline;
        // In the order in which it has to be touched; what has no end comes after it, what only cures last.
        const rank = running ? 0 : shown.state === "over_age" ? now : by ? by : task ? 3e9 : 4e9;
        let big = "";
        let note = "";
        if (running) [big, note] = [say.today.on, atIt(job, running.coat_id)];
        else if (shown.state === "over_age")
          [big, note] = [say.today.sand, say.today.windowClosed(when(part.films.at(-1)!.spans.at(-1)!.from_at, now))];
        else if (task?.must.length) [big, note] = [say.today.onHold, say.today.first(task.must.join(say.common.and))];
        else if (task?.before.length) [big, note] = [say.today.prepare, say.today.stepBeforeIt(task.before.length)];
        else if (task && open && by)
          [big, note] =
            by > now ? [duration(by - now), say.today.by(act, when(by, now))] : [say.common.late, say.today.due(act, when(by, now))];
        else if (task && !open)
          [big, note] = [
            duration(task.opens_at! - now),
            say.today.from(task.kind === "unmask" ? say.common.unmask : then || say.common.recoat, when(task.opens_at!, now)),
          ];
        else if (task) [big, note] = [say.common.ready, say.common.noTimeLimit];
        else if (gate?.late_at) [big, note] = [duration(gate.late_at - now), say.today.by(gateName(gate.name), when(gate.late_at, now))];
        else continue;
        const what =
          task?.kind === "unmask"
            ? say.common.unmask
            : task?.kind === "then"
              ? then
              : layer
                ? say.today.coatOf(job.facts.sheets[layer.sheet_id]?.name ?? "", running?.n ?? task!.n, layer.coats)
                : gate
                  ? say.today.curing
                  : "";
        out.push({
          key: job.head.id + part.part_id,
          job,
          partId: part.part_id,
          name: p.name,
          what,
          state: shown.state,
          word: shown.word,
          big,
          note,
          rank,
        });
      }
    }
    return out.toSorted((a, b) => a.rank - b.rank);
  });
  const places = $derived([...new Set((page?.lines ?? []).map((l) => l.head.place))].sort());
  const due = $derived(page?.due ?? []);
  /** Who the painters are, where the shop has said who is in the plan. */
  const named = $derived((page?.lines ?? []).find((l) => l.plan?.people?.length)?.plan?.people ?? []);
  const pots = $derived(
    (page?.lines ?? []).flatMap((l) => l.view.pots.filter((b) => (b.gels_at ?? 0) > now && b.left_ml > 0).map((b) => ({ b, job: l }))),
  );
  /** What went wrong and is not put right, worst first; what is only noted stays with the job. */
  const wrong = $derived(
    (page?.lines ?? [])
      .filter((l) => !place || l.head.place === place)
      .flatMap((job) => (job.state.findings ?? []).map((f) => ({ job, f })))
      .filter(({ f }) => f.met_at == null && f.severity !== "note")
      .toSorted((a, b) => Number(a.f.severity !== "ruins") - Number(b.f.severity !== "ruins")),
  );
  const wanted = (job: Schemas["NowLine"], partId: string) => {
    const layers = job.facts.layers.filter((l) => l.part_id === partId);
    return { um: layers.reduce((s, l) => s + (l.target_um ?? 0), 0), tol: layers.reduce((s, l) => s + l.tol_um, 0) };
  };
  let loading = $state(false);
  let refusal = $state("");
  async function toPresent(): Promise<void> {
    loading = true;
    const { error } = await api.POST("/api/demo/present");
    if (!error) return location.reload(); // another shop, other jobs: nothing shown holds any more
    [loading, refusal] = [false, inWords(error)];
  }
</script>

{#if session.who?.demo_lapsed && session.mayWrite}<div class="pad lapsed">
    <span>{say.today.demoLapsed}</span>
    <button class="btn small go" disabled={loading} onclick={toPresent}>{loading ? say.today.demoLoading : say.today.demoToPresent}</button>
    {#if refusal}<b role="alert">{refusal}</b>{/if}
  </div>{/if}
<div class="now" bind:clientWidth={box}>
  <h1 class="sr">{say.common.today}</h1>
  {#if told.problem}<p class="pad" role="alert"><b>{told.problem}</b></p>{/if}
  {#each page?.failed ?? [] as title (title)}<p class="pad" role="alert"><b>{say.panels.failed(title)}</b></p>{/each}
  {#if page && rows.length === 0}<p class="pad">
      {say.today.nothingIsWetWaitingOr} <a class="line" href="#/jobs/new">{say.common.newJob}</a>
      {say.today.orOpenOneFrom}
      <a class="line" href="#/jobs">{say.common.jobs}</a>.
    </p>
    <p class="pad mute">{say.first.todayAbout}</p>
    {#if session.who?.role === "owner" && !session.who.works_on.length}<p class="pad">
        <a class="btn go" href="#/first">{say.first.answer}</a>
      </p>{/if}{/if}
  <div class="filter">
    {#if due.length}<a class="line" href="#/record">{say.today.dueInService(due.length + (page?.due_left ?? 0))}</a>{/if}
    {#if people.length > 1}<label
        ><span class="sr">{say.today.person}</span>
        <select bind:value={person}
          ><option value="">{say.today.anybody}</option>{#each people as n (n)}<option value={String(n)}
              >{named[n] ?? say.plan.painter(n + 1)}</option
            >{/each}</select
        ></label
      >{/if}
    {#if places.length > 1}<label
        ><span class="sr">{say.today.where}</span>
        <select bind:value={place}
          ><option value="">{say.today.everywhere}</option>{#each places as name (name)}<option>{name}</option>{/each}</select
        ></label
      >{/if}
  </div>
  <svg class="axis" width={box} height="32" aria-hidden="true">
    <g transform={`translate(${HEAD} 0)`}>
      {#each marks as t (t)}{#if Math.abs(scale.x(t) - scale.x(now)) > 44}<text x={scale.x(t)} y="19" text-anchor="middle" font-size="14"
            >{clockTime(t)}</text
          >{/if}{/each}
      <rect x={scale.x(now) - 28} y="1" width="56" height="26" fill="var(--ink)" /><text
        class="nowbox"
        x={scale.x(now)}
        y="20"
        text-anchor="middle"
        font-size="16">{clockTime(now)}</text
      >
    </g>
  </svg>
  <ol>
    {#each rows as r, i (r.key)}
      <svelte:boundary>
        {@const w = wanted(r.job, r.partId)}
        {@const h = i === 0 ? 132 : 76}
        <li class:first={i === 0}>
          <a href={`#/jobs/${r.job.head.id}/run`} aria-label={`${r.name}, ${r.what}: ${r.word}, ${r.note}`}>
            <span class="when"
              ><span class="num">{r.big.split(" ")[0]}<small>{r.big.split(" ").slice(1).join(" ")}</small></span><span>{r.note}</span></span
            >
            <span class="what"
              ><b>{r.name}: {r.what}</b><span
                >{[r.job.head.title, r.job.head.asset, r.job.head.mark, r.job.head.place].filter(Boolean).join(", ")}</span
              >
              <span class="st"><StateTag state={r.state} word={r.word} /></span></span
            >
          </a>
          <svg {width} height={h} aria-hidden="true">
            {#each marks as t (t)}<line x1={scale.x(t)} x2={scale.x(t)} y1="0" y2={h} stroke="var(--rule)" />{/each}
            <Lane
              films={r.job.state.parts.find((p) => p.part_id === r.partId)?.films ?? []}
              planned={(r.job.plan?.tasks ?? []).filter((t) => t.part_id === r.partId)}
              facts={r.job.facts}
              target_um={w.um}
              tol_um={w.tol}
              scale_um={w.um + w.tol}
              {scale}
              {width}
              height={h}
              {now}
              words={i === 0}
            />
            <line x1={scale.x(now)} x2={scale.x(now)} y1="0" y2={h} stroke="var(--ink)" stroke-width="3" />
          </svg>
        </li>
        {#snippet failed()}<li>
            <a href={`#/jobs/${r.job.head.id}/cure`}
              ><span class="num">?</span><span class="what"
                ><b>{r.name}: {r.what}</b><span>{say.today.thisLineCannotBeDrawn(r.job.head.title)}</span></span
              ></a
            >
          </li>{/snippet}
      </svelte:boundary>
    {/each}
  </ol>
  {#if wrong.length}
    <section class="pots" aria-label={say.found.title}>
      <h2>{say.found.title}</h2>
      {#each keyed(wrong, (x) => `${x.job.head.id}/${x.f.code}/${x.f.coat_id}/${x.f.batch_id}`) as { key, row: x } (key)}
        <p class={x.f.severity}>
          <a class="line" href={`#/jobs/${x.job.head.id}/run`}><b>{say.severity[x.f.severity]}: {judged(x.f).what}</b></a>. {[
            x.job.head.title,
            x.job.facts.parts.find((p) => p.id === x.f.part_id)?.name,
          ]
            .filter(Boolean)
            .join(", ")}
        </p>
      {/each}
    </section>
  {/if}
  {#if rows.length}<Leave />{/if}
  {#if due.length}
    <section class="pots" aria-label={say.today.dueInService2}>
      <h2>{say.today.dueInService2}</h2>
      {#each keyed(due, (d) => `${d.job_id} ${d.what}`) as { key, row: d } (key)}
        <p>
          <a class="line" href={`#/jobs/${d.job_id}/service`}><b>{d.what}</b></a>: {d.asset}{d.parts > 1
            ? say.today.parts(d.parts)
            : `, ${d.part}`}. {d.due_at <= now ? say.today.dueSince(when(d.due_at, now)) : say.today.due2(when(d.due_at, now))}.
        </p>
      {/each}
      {#if page?.due_left}<button class="btn" onclick={() => (dueJobs = Math.min(400, dueJobs * 3))}
          >{say.today.moreDue(page.due_left)}</button
        >{/if}
    </section>
  {/if}
  {#if pots.length}
    <section class="pots">
      <h2>{say.today.mixedPaint}</h2>
      {#each pots as { b, job } (b.batch_id)}
        <p>
          <span class="num">{duration(Math.max(0, (b.use_by_at ?? 0) - now))}</span>
          {say.today.leftUseByGelsAbout(
            job.facts.sheets[b.sheet_id]?.name ?? "",
            volume(b.left_ml),
            when(b.use_by_at ?? 0, now),
            when(b.gels_at ?? 0, now),
          )}
        </p>
      {/each}
    </section>
  {/if}
</div>

<style>
  .now {
    min-width: 0;
    overflow: hidden;
  }
  .pad {
    padding: 24px;
  }
  .axis text {
    fill: var(--ink2);
    font-weight: 600;
  }
  .axis .nowbox {
    fill: var(--on-ink);
    font-stretch: 66%;
    font-weight: 800;
  }
  ol {
    list-style: none;
  }
  li {
    display: flex;
    min-height: 70px;
    border-top: 2px solid var(--edge);
    background: var(--field);
  }
  li.first {
    background: var(--lift);
    box-shadow: inset 10px 0 var(--ink);
  }
  li a {
    width: 540px;
    flex: none;
    display: grid;
    grid-template-columns: 150px minmax(0, 1fr);
    gap: 14px;
    align-items: center;
    padding: 4px 14px 4px 24px;
    background: var(--ground);
    position: relative;
    z-index: 1;
  }
  .when {
    display: grid;
    font-size: 13.5px;
    line-height: 1.2;
    text-align: right;
  }
  .first a {
    background: transparent;
  }
  .num {
    font-size: 34px;
    text-align: right;
  }
  .num small {
    font-size: 19px;
    margin-left: 4px;
  }
  .first .num small {
    font-size: 24px;
  }
  .first .num {
    font-size: 60px;
    line-height: 1;
    white-space: nowrap;
  }
  .what {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 1px;
    font-size: 13.5px;
    line-height: 1.25;
    color: var(--ink2);
  }
  .what b,
  .what > span:not(.st) {
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .what b {
    font-stretch: 72%;
    font-weight: 780;
    font-size: 18px;
    color: var(--ink);
    line-height: 1.05;
  }
  .first .what b {
    font-size: 25px;
    white-space: normal;
  }
  .now {
    position: relative;
  }
  .lapsed {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px 16px;
    background: var(--lift);
    border-bottom: 2px solid var(--edge);
  }
  .filter {
    position: absolute;
    left: 24px;
    top: 0;
    display: flex;
    gap: 10px;
    align-items: center;
    max-width: 510px;
    min-height: 32px;
    font-weight: 640;
  }
  .filter select {
    min-height: 30px;
    max-width: 180px;
    padding: 0 8px;
  }
  .st {
    display: flex;
    gap: 10px;
    align-items: center;
    color: var(--ink);
    white-space: nowrap;
  }
  .pots {
    padding: 14px 24px;
    border-top: 2px solid var(--ink);
    display: grid;
    gap: 8px;
  }
  .pots .num {
    font-size: 28px;
    margin-right: 8px;
  }
  @media (max-width: 1000px) {
    .filter select {
      min-height: 44px;
    }
    .axis {
      height: 46px;
    }
  }
  @media (max-width: 700px) {
    li a {
      width: 100%;
      grid-template-columns: 112px minmax(0, 1fr);
      padding: 6px 14px;
    }
    .what b,
    .what > span:not(.st),
    .st {
      white-space: normal;
    }
    li svg,
    .axis {
      display: none;
    }
    .filter {
      position: static;
      padding: 0 14px 6px;
      min-height: 48px;
      flex-wrap: wrap;
      max-width: none;
    }
    .filter a {
      flex: 0 0 100%;
      min-height: 44px;
      line-height: 44px;
    }
    .filter label {
      flex: 1;
    }
    .filter select {
      min-height: 44px;
      width: 100%;
      max-width: none;
    }
    .first .num {
      font-size: 42px;
    }
    .num {
      font-size: 28px;
    }
  }
</style>
