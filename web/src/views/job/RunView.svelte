<script lang="ts">
  /** Run at the desk: the build strip, the next pair of hands, the plan in words, the log. */
  import type { JobPage } from "../../api/client";
  import { api, inWords } from "../../api/client";
  import BuildStrip from "../../figures/BuildStrip.svelte";
  import {
    actBy,
    batchFor,
    combRead,
    cueText,
    doneWord,
    endCoats,
    fixedWord,
    going,
    groupName,
    manner,
    partName,
    pauseCoat,
    ruinedBy,
    sentence,
    startCoats,
    stepDone,
    stepWord,
    takeOff,
    tapeOff,
    taskLabel,
    together,
  } from "../../lib/actions";
  import { plannersAnswer, whileHere } from "../../lib/asked";
  import { serverClock } from "../../lib/clock.svelte";
  import { nextTooth, teeth } from "../../lib/comb";
  import { bare, duration, setup, show, stopwatch, um, unit, volume, when } from "../../lib/format";
  import { keyed } from "../../lib/keyed";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { Settled } from "../../lib/settled.svelte";
  import Stop from "../../ui/Stop.svelte";
  import Isocyanate from "../../ui/Isocyanate.svelte";
  import Undo from "../../ui/Undo.svelte";
  import WhyNote from "../../ui/WhyNote.svelte";
  import Leave from "../../ui/Leave.svelte";
  import { stepsDue } from "../../lib/works";
  import Entries from "./Entries.svelte";
  import { printed } from "../../lib/paper";
  import { currentView } from "../../lib/pick";
  import { saveSvg } from "../../lib/svgfile";
  import CountsOn from "./CountsOn.svelte";
  import PlanAge from "./PlanAge.svelte";
  import PlanTable from "./PlanTable.svelte";
  import Builds from "../../ui/Builds.svelte";
  import Crew from "../../ui/Crew.svelte";
  import Found from "../../ui/Found.svelte";
  import Hold from "../../ui/Hold.svelte";
  import { unmet, type Mend } from "../../lib/judged";
  import StepNow from "./StepNow.svelte";
  import StopWords from "./StopWords.svelte";
  import WaysOut from "./WaysOut.svelte";
  import WhatIf from "./WhatIf.svelte";
  import { told } from "../../lib/verdicts";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const here = whileHere();
  let picked = $state<string | null>(null);
  let chosen = $state<string | null>(null);
  let zoom = $state(1);
  let refusal = $state("");
  let table: PlanTable | undefined = $state();
  let strip: HTMLElement | undefined = $state();
  let said = $state("");
  let tooth = $state("");
  const now = $derived(serverClock.now);
  const all = $derived(going(page));
  const running = $derived(all[0]);
  const task = $derived(page.view.next.find((t) => t.part_id === picked) ?? page.view.next[0]);
  const part = $derived(task ? page.state.parts.find((p) => p.part_id === task.part_id) : undefined);
  const shown = $derived(part ? currentView(part, now) : null);
  const closed = $derived(
    shown?.state === "over_age" || Boolean(task?.kind === "coat" && task.closes_at && task.closes_at <= now && !shown?.state),
  );
  const mates = $derived(task ? together(page, task, now) : []);
  const waits = $derived(
    task?.opens_at && task.opens_at > now && shown?.state !== "open" && shown?.state !== "closing" ? task.opens_at : null,
  );
  const planned = $derived(page.plan?.tasks.find((t) => t.key === task?.task_key));
  const sheet = $derived(
    task?.layer_id ? page.facts.sheets[page.facts.layers.find((l) => l.id === task.layer_id)?.sheet_id ?? ""] : undefined,
  );
  const label = $derived(
    task && mates.length > 1
      ? `${groupName(
          page,
          mates.map((t) => t.part_id),
        )}, ${sheet?.name} ${task.n}`
      : task
        ? taskLabel(page, task)
        : "",
  );
  const sheetBuilds = $derived.by(() => {
    const id = running?.film.sheet_id ?? part?.films.at(-1)?.sheet_id;
    return id ? page.facts.sheets[id]?.build === "film" : undefined;
  });
  const lead = $derived(running?.partId ?? task?.part_id ?? page.facts.parts[0]!.id);
  let toCoat = $state("");
  /** The steps before the coat that is next; without one, those after the last coat of any part. */
  const steps = $derived.by(() => {
    if (running || task?.kind === "then" || (task && toCoat === task.task_key && !task.must.length)) return null;
    const ids = task ? [task.part_id] : page.state.parts.map((p) => p.part_id);
    return ids.map((id) => stepsDue(page, id)).find((x) => x && x.lines.length > 0) ?? null;
  });
  const settled = new Settled(() => [running?.film.coat_id, task?.task_key, steps?.lines[0]?.work.key].join());
  const canTap = $derived(session.mayWrite && settled.ready);
  const must = $derived(task?.must ?? page.state.parts.flatMap((p) => p.must_after ?? []).filter((x, i, all) => all.indexOf(x) === i));
  const hasPot = $derived(task?.layer_id && sheet?.properties.two_pack ? batchFor(page, task.layer_id, now) !== null : true);
  const flags = $derived(page.state.flags);
  /** Why the coat should not go on now: to start all the same is a decision, not the same tap. */
  const early = $derived(
    task?.kind !== "coat"
      ? ""
      : waits
        ? say.apply.earlyBy(duration(waits - now))
        : page.air.stops.length
          ? told(page.air.stops[0]!).what
          : ruinedBy(page, mates, now),
  );
  const by = $derived(actBy(task));
  const mend = $derived((part?.mend || "sand") as Mend);
  const bareTooLong = $derived(closed && part?.films.length === 0);
  const stuck = $derived(closed && (part?.films.length ?? 0) > 0 && !task?.steps.length);
  const takes_s = $derived(all.reduce((s, x) => s + (x.film.takes_s ?? 0), 0));
  const runningLabel = $derived.by(() => {
    if (!running) return "";
    const layer = page.facts.layers.find((l) => l.id === running.film.layer_id);
    return say.apply.coatOf(
      groupName(
        page,
        all.map((x) => x.partId),
      ),
      page.facts.sheets[layer?.sheet_id ?? ""]?.name ?? "",
      running.film.n,
      layer?.coats ?? "",
    );
  });

  function reason(): string {
    if (!task) return "";
    if (stuck) return `${say.phone.missedTakeOff} ${say.mends[mend]}`;
    if (bareTooLong) return say.apply.bareTooLong(task.steps.map(stepWord).join(say.common.and));
    if (closed) return say.apply.theRecoatWindowHasClosed(task.steps.map(stepWord).join(say.common.and));
    if (waits) return say.apply.waitingForReady(task.waits_for || say.apply.theCoatBefore, when(waits, now));
    if (task.kind === "then")
      return task.closes_at
        ? task.closes_at > now
          ? say.apply.inTimeUntil(when(task.closes_at, now))
          : say.apply.itShouldHaveBeenDone(when(task.closes_at, now))
        : "";
    if (task.kind === "unmask") return task.closes_at ? say.apply.readyToUnmaskUntil(when(task.closes_at, now)) : say.apply.readyToUnmask;
    if (task.closes_at && by)
      return say.apply.startByEnds(when(by, now), task.waits_for ? say.apply.recoatWindow : say.apply.timeLimit, when(task.closes_at, now));
    return say.apply.noTimeLimit;
  }
  async function planAgain(): Promise<void> {
    said = say.apply.planning;
    const { data, error } = await plannersAnswer(
      here,
      api.POST("/api/jobs/{job_id}/plan", { params: { path: { job_id: page.head.id } }, body: {} }),
      (told) => told.plan,
      (s) => (said = say.apply.planningFor(s)),
    );
    said = data ? say.apply.plannedDone(when(data.plan.finish_at ?? now, now), howGood(data.status, data.gap_s)) : inWords(error);
    outbox.taken += 1;
  }
  function howGood(status: string, gap_s: number): string {
    if (status === "optimal") return say.apply.thisIsTheShortestOrder;
    if (status === "infeasible") return say.common.someDeadlinesCannotBeMet;
    return gap_s >= 60 ? say.apply.atMostLongerThanThe(duration(gap_s)) : say.apply.thisIsTheShortestOrder;
  }
  const late = $derived(page.changes.filter((c) => Math.abs(c.moved_s) >= 60));
  const worst = $derived(late.toSorted((a, b) => Math.abs(b.moved_s) - Math.abs(a.moved_s))[0]);
  async function setDue(by: number): Promise<void> {
    if (!page.due_at) return;
    const { error } = await api.POST("/api/jobs/{job_id}/dates", {
      params: { path: { job_id: page.head.id } },
      body: {
        due_at: page.due_at + by,
        ready_at: page.ready_at,
        slot_at: page.slot_at,
        slot_for: page.slot_for as "",
        parts_from: page.parts_from,
      },
    });
    if (error) refusal = inWords(error);
    outbox.taken += 1;
  }
  /** Up and down the parts, left and right the planned coats. */
  function step(by: number, list: string[], at: string | null): string | null {
    if (!list.length) return null;
    const i = at === null ? (by > 0 ? 0 : list.length - 1) : list.indexOf(at) + by;
    return list[Math.min(list.length - 1, Math.max(0, i))] ?? null;
  }
  function comb(event: Event): void {
    const low = Number((event.currentTarget as HTMLSelectElement).value);
    const film = running?.film ?? part?.films.at(-1);
    if (low && film) void combRead(page, lead, film.coat_id, low, nextTooth(low));
    tooth = "";
  }
  /** S starts, D ends: only while the figure has the focus, and only for who wants it. */
  function key(event: KeyboardEvent): void {
    const inFigure = (event.target as HTMLElement).closest("figure");
    if (inFigure && session.mayWrite && event.key.startsWith("Arrow")) {
      const coats = (page.plan?.tasks ?? []).filter((t) => t.kind === "coat" && !t.locked);
      const at = coats.find((t) => t.key === chosen);
      event.preventDefault();
      if (event.shiftKey && at && event.key === "ArrowLeft") void table?.move(at.key, at.start_at - 300);
      else if (event.shiftKey && at && event.key === "ArrowRight") void table?.move(at.key, at.start_at + 300);
      else if (event.key === "ArrowLeft" || event.key === "ArrowRight")
        chosen = step(
          event.key === "ArrowRight" ? 1 : -1,
          coats.map((t) => t.key),
          chosen,
        );
      else
        picked = step(
          event.key === "ArrowDown" ? 1 : -1,
          page.view.parts.map((p) => p.part_id),
          picked,
        );
      return;
    }
    if (!inFigure || !session.mayWrite || !session.who?.preferences.letter_keys || event.ctrlKey || event.altKey || event.metaKey) return;
    if (event.key === "s" && !running && task?.kind === "coat" && !closed) void startCoats(page, mates, now);
    if (event.key === "d" && running)
      void endCoats(
        page,
        all.map((x) => x.film.coat_id),
        runningLabel,
      );
    if (event.key === "n") {
      zoom = 1;
      chosen = null;
    }
    if (event.key === "+" || event.key === "=") zoom = Math.min(8, zoom * 1.25);
    if (event.key === "-") zoom = Math.max(1, zoom * 0.8);
    if (event.key === "[") void setDue(-900);
    if (event.key === "]") void setDue(900);
  }
  const combFilm = $derived(
    sheetBuilds === false ? undefined : (running?.film ?? (shown?.state === "wet" ? part?.films.at(-1) : undefined)),
  );
</script>

<svelte:window onkeydown={key} />
<div bind:this={strip}>
  <BuildStrip
    {page}
    {now}
    {picked}
    pick={(id) => (picked = id)}
    laneHeight={page.facts.parts.length > 8 ? 52 : page.facts.parts.length > 4 ? 72 : 92}
    task={chosen}
    pickTask={session.mayWrite ? (key) => (chosen = key) : undefined}
    drop={session.mayWrite ? (key, at) => void table?.move(key, at) : undefined}
    {zoom}
    setZoom={(z) => (zoom = z)}
  />
</div>
<div class="below">
  <section class="plan" aria-label={say.apply.plan}>
    {#each page.failed as name (name)}<p class="flag" role="alert">
        <b>{say.panels.failed((say.panels as Record<string, unknown>)[name] as string)}</b>
      </p>{/each}
    {#each page.air.stops.map(told) as s, i (i)}<Stop what={s.what} why={s.why} instead={s.instead} />{/each}
    <WaysOut {page} {now} said={(text) => (said = text)} />
    <div class="headline">
      <h2>
        {page.plan?.finish_at
          ? say.apply.finish(when(page.plan.finish_at, now))
          : page.view.next.length
            ? say.apply.noPlanYet
            : say.apply.allCoatsApplied}
      </h2>
      {#if session.mayWrite && page.view.next.length}<button class="btn small" onclick={planAgain}>{say.apply.replan}</button>{/if}
      <span class="tools">
        <button class="btn small" aria-label={say.apply.zoomIn} disabled={zoom >= 8} onclick={() => (zoom = Math.min(8, zoom * 1.5))}
          >+</button
        >
        <button class="btn small" aria-label={say.apply.zoomOut} disabled={zoom <= 1} onclick={() => (zoom = Math.max(1, zoom / 1.5))}
          >&minus;</button
        >
        <button class="btn small" onclick={printed}>{say.common.print}</button>
        <button class="btn small" onclick={() => strip && saveSvg(strip.querySelector("figure")!, page.head.title)}
          >{say.apply.saveImage}</button
        >
        <a class="btn small" href={`#/jobs/${page.head.id}/timer`}>{say.timer.title}</a>
        <a class="btn small" href={`/api/jobs/${page.head.id}/plan.ics`} download>{say.apply.addToCalendar}</a>
      </span>
      {#if said}<span role="status">{said}</span>{/if}
      <PlanAge {page} {now} />
    </div>
    <CountsOn {page} {now} said={(text) => (said = text)} />
    {#if worst && page.planned_at}
      <p class="reflow" aria-label={say.apply.whatChangedAgainstThePlan}>
        <b>{say.apply.changedSinceThePlanOf(when(page.planned_at, now))}</b>
        {worst.text}{late.length > 1 ? say.apply.moreTasksMovedWithIt(late.length - 1) : ""}
      </p>
    {/if}
    <PlanTable
      bind:this={table}
      {page}
      {now}
      task={chosen}
      pickTask={(key) => (chosen = key)}
      {refusal}
      setRefusal={(text) => (refusal = text)}
    />
    {#if page.plan?.tasks.length}<WhatIf {page} {now} said={(text) => (said = text)} />{/if}
    <StopWords {page} {now} />
    <Found {page} findings={unmet(page).filter((f) => f.severity !== "ruins")} />
    <Builds {page} />
    {#each flags as f, i (i)}
      <p class="flag"><b>{say.common.attention}</b> {f.part_id ? `${partName(page, f.part_id)}. ` : ""}{f.text}</p>
    {/each}
    <Entries {page} partId={picked ?? lead}>
      {#if page.plan?.tasks.length}<div class="leavebox"><Leave jobId={page.head.id} /></div>{/if}
    </Entries>
  </section>
  <section class="act" aria-label={say.apply.nextTask}>
    <Found {page} findings={unmet(page).filter((f) => f.severity === "ruins")} />
    {#if running}
      <div class="ttl">
        <h2>{runningLabel}</h2>
        <span class="num">{stopwatch(now - running.film.started_at)}</span>
      </div>
      {#if takes_s}<p class="mute">{say.apply.takesAbout(duration(takes_s))}</p>{/if}
      <p class="mute">{running.film.paused ? say.apply.paused : say.apply.inProgress} {cueText(page, running.film.slot)}</p>
      <div class="row">
        <button
          class="btn go"
          disabled={!canTap}
          onclick={() =>
            endCoats(
              page,
              all.map((x) => x.film.coat_id),
              runningLabel,
            )}>{say.common.coatDone}</button
        >
        <button class="btn" disabled={!canTap} onclick={() => pauseCoat(page, running!.film.coat_id, running!.film.paused)}
          >{running.film.paused ? say.common.resume : say.common.pause}</button
        >
      </div>
    {:else if steps && task?.kind !== "unmask"}
      <StepNow
        {page}
        group={steps.group}
        lines={steps.lines}
        must={task ? must : []}
        skip={task ? () => (toCoat = task!.task_key) : undefined}
      />
    {:else if task?.must.length}
      <h2>{label}</h2>
      <p class="haz"><b>{say.common.onHold}</b> {say.apply.completeBeforeCoating(task.must.join(say.common.and))}</p>
      <a class="btn" href={`#/jobs/${page.head.id}/stack`}>{say.common.openTheStepList}</a>
    {:else if task}
      <div class="ttl">
        <h2>{label}</h2>
        {#if waits}<span><span class="num">{stopwatch(waits - now)}</span> {say.phone.wait}</span>
        {:else if by && by > now && task.kind === "coat" && !closed}<span
            ><span class="num">{stopwatch(by - now)}</span> {say.phone.leftToStart}</span
          >
        {:else if task.wet_um}<span><span class="num">{bare("um", task.wet_um)}</span> {say.apply.wft(unit("um"))}</span>{/if}
      </div>
      {#if manner(task)}<p class="manner">{manner(task)}</p>{/if}
      <p class="mute">{reason()}</p>
      {#if sheet?.properties.needs_air_fed_mask}<Isocyanate />{/if}
      {#if task.kind === "coat" && session.mayWrite}<Crew />{/if}
      <div class="row">
        {#if task.kind === "unmask"}
          <button class="btn go" disabled={!canTap} onclick={() => tapeOff(page, task!.part_id, "clean")}
            >{say.common.maskingRemoved}</button
          >
        {:else if task.kind === "then"}
          <button class="btn go" disabled={!canTap} onclick={() => stepDone(page, [task!.part_id], task!.steps[0]!)}
            >{sentence(doneWord(task.steps[0]!))}</button
          >
        {:else if stuck}
          <button class="btn" disabled={!canTap} onclick={() => takeOff(page, part!.films.at(-1)!.coat_id, mend)}>{say.took[mend]}</button>
        {:else if closed}
          {#each keyed(task.steps, String) as { key, row: step } (key)}<button
              class="btn"
              disabled={!canTap}
              onclick={() => stepDone(page, [task!.part_id], step)}>{fixedWord(step, part?.mend ?? "")}</button
            >{/each}
        {:else if early && canTap}
          {#if ruinedBy(page, mates, now)}<button class="btn go" onclick={() => (toCoat = "")}>{say.phone.toTheSteps}</button>{/if}
          <div class="anyway">
            <Hold
              small
              label={say.apply.startAnyway}
              about={mates.map((t) => t.task_key).join(" ")}
              note={early}
              fire={() => startCoats(page, mates, now)}
            />
          </div>
          <a class="btn" href={`#/jobs/${page.head.id}/mix?sheet=${sheet?.id ?? ""}`}>{hasPot ? say.common.mix : say.apply.mixFirst}</a>
        {:else}
          <button class="btn go" disabled={!canTap} onclick={() => startCoats(page, mates, now)}
            >{mates.length > 1 ? say.phone.coatOnParts(task.n, mates.length) : say.common.startCoat}</button
          >
          <a class="btn" href={`#/jobs/${page.head.id}/mix?sheet=${sheet?.id ?? ""}`}>{hasPot ? say.common.mix : say.apply.mixFirst}</a>
        {/if}
      </div>
      <dl>
        {#if planned}<dt>{say.apply.planned}</dt>
          <dd>
            {when(Math.max(planned.start_at, now), now)}, {duration(task.duration_s)}{task.volume_ml ? `, ${volume(task.volume_ml)}` : ""}
          </dd>{/if}
        {#each sheet?.setups ?? [] as x, i (i)}<dt>{say.apply.gunSetUp}</dt>
          <dd>{setup(x)}</dd>{/each}
        {#if task.wet_um && (waits || by)}<dt>{say.apply.wetFilm}</dt>
          <dd>{um(task.wet_um)}</dd>{/if}
        {#if task.dry_um}<dt>{say.apply.driesTo}</dt>
          <dd>{um(task.dry_um)} <WhyNote why={task.why} /></dd>{/if}
        {#if task.closes_at && !closed}<dt>{task.closes_at > now ? say.common.closes : say.apply.closed}</dt>
          <dd>
            {when(task.closes_at, now)}{task.latest_start_at && task.closes_at > now
              ? say.apply.by(task.kind === "coat" ? say.common.mixInline : say.common.startInline, when(task.latest_start_at, now))
              : ""}
          </dd>{/if}
        {#if sheet?.grade === "typical"}<dt>{say.common.dataSheet}</dt>
          <dd>{say.apply.typicalValuesFollowTheProducts}</dd>{/if}
      </dl>
    {:else}
      <h2>{say.apply.allCoatsApplied}</h2>
      <a class="btn" href={`#/jobs/${page.head.id}/cure`}>{say.common.curingTimes}</a>
      <a class="btn" href={`#/jobs/${page.head.id}/service`}>{page.head.in_service ? say.apply.seeInService : say.apply.putIntoService}</a>
    {/if}
    {#if combFilm && session.mayWrite}
      <label class="comb"
        >{say.apply.wetFilmGaugeLastWetted}
        <select bind:value={tooth} onchange={comb}
          ><option value="">{unit("um")}</option>{#each teeth() as t (t)}<option value={t}>{bare("um", t)}</option>{/each}</select
        >
      </label>
      {#if combFilm.wet_um}<p class="mute">
          {say.apply.wftTo(
            bare("um", combFilm.wet_um.low),
            show("um", combFilm.wet_um.high),
            combFilm.dry_um ? say.apply.driesToTo(bare("um", combFilm.dry_um.low), show("um", combFilm.dry_um.high)) : "",
          )}
        </p>{/if}
    {/if}
    <Undo jobId={page.head.id} />
  </section>
</div>

<style>
  .below {
    flex: 1;
    display: grid;
    grid-template-columns: 1fr 420px;
    border-top: 2px solid var(--ink);
  }
  .plan {
    padding: 12px 24px;
    display: grid;
    gap: 10px;
    align-content: start;
    min-width: 0;
  }
  .headline {
    display: flex;
    align-items: center;
    gap: 16px;
    flex-wrap: wrap;
  }
  .tools {
    display: flex;
    gap: 6px;
    margin-left: auto;
  }
  .reflow {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .act {
    border-left: 2px solid var(--ink);
    padding: 14px 20px;
    display: grid;
    gap: 10px;
    align-content: start;
    background: var(--lift);
  }
  .ttl {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    align-items: flex-start;
  }
  .haz {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .manner {
    font-weight: 700;
    font-stretch: 84%;
    font-size: 17px;
  }
  .ttl .num {
    font-size: 46px;
  }
  .ttl span {
    white-space: nowrap;
    font-weight: 600;
  }
  dl {
    display: grid;
    grid-template-columns: 84px 1fr;
    gap: 4px 8px;
  }
  dt {
    color: var(--ink2);
  }
  dd {
    font-weight: 620;
  }
  .row {
    display: flex;
    gap: 10px;
  }
  .row .go {
    flex: 1;
  }
  .anyway {
    flex: 1;
    min-width: 220px;
  }
  .leavebox :global(.leave) {
    padding-left: 0;
    padding-right: 0;
  }
  .comb {
    display: flex;
    align-items: center;
    gap: 10px;
    font-weight: 640;
  }
  .comb select {
    width: 120px;
  }
  .flag {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .plan :global(.entries) {
    padding-left: 0;
    padding-right: 0;
  }
  @media print {
    .act,
    .tools,
    .headline .btn,
    .leavebox,
    .plan :global(.entries),
    .plan :global(details),
    .plan :global(.mover) {
      display: none;
    }
    .below {
      grid-template-columns: 1fr;
    }
  }
  @media (max-width: 1000px) {
    .below {
      grid-template-columns: 1fr;
    }
    .act {
      border-left: 0;
      order: -1;
    }
  }
</style>
