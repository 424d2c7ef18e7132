<script lang="ts">
  /** Run in one gloved hand: part, timer, its own strip, comb, air, one big action. */
  import type { JobPage } from "../../api/client";
  import Comb from "../../figures/Comb.svelte";
  import Lane from "../../figures/Lane.svelte";
  import { stripScale } from "../../figures/scale";
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
    together,
  } from "../../lib/actions";
  import { serverClock } from "../../lib/clock.svelte";
  import { teeth } from "../../lib/comb";
  import { clockTime, duration, kelvin, percent, show, stopwatch, um, volume, when, bare } from "../../lib/format";
  import { keyed } from "../../lib/keyed";
  import { crew } from "../../lib/crew.svelte";
  import { session } from "../../lib/session.svelte";
  import StateTag from "../../ui/StateTag.svelte";
  import Undo from "../../ui/Undo.svelte";
  import { unmet, type Mend } from "../../lib/judged";
  import Found from "../../ui/Found.svelte";
  import Builds from "../../ui/Builds.svelte";
  import Crew from "../../ui/Crew.svelte";
  import Isocyanate from "../../ui/Isocyanate.svelte";
  import Hold from "../../ui/Hold.svelte";
  import ThisDevice from "../../ui/ThisDevice.svelte";
  import Leave from "../../ui/Leave.svelte";
  import { stepsDue } from "../../lib/works";
  import Entries from "./Entries.svelte";
  import StepNow from "./StepNow.svelte";
  import { currentView } from "../../lib/pick";
  import { stepName, STEPS } from "../../lib/tabs";
  import { told } from "../../lib/verdicts";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  let more = $state(false);
  let width = $state(390);
  const now = $derived(serverClock.now);
  const all = $derived(going(page));
  const running = $derived(all[0]);
  const task = $derived(page.view.next[0]);
  const second = $derived(page.view.next.find((t) => !all.some((x) => x.partId === t.part_id) && (running || !mates.includes(t))));
  const partId = $derived(running?.partId ?? task?.part_id ?? page.facts.parts[0]!.id);
  const part = $derived(page.state.parts.find((p) => p.part_id === partId)!);
  const shown = $derived(currentView(part, now));
  const layer = $derived(page.facts.layers.find((l) => l.id === (running?.film.layer_id ?? task?.layer_id ?? part.films.at(-1)?.layer_id)));
  const sheet = $derived(layer ? page.facts.sheets[layer.sheet_id] : undefined);
  /** How long what is going on takes: those of one tap one after another. */
  const estimate_s = $derived(all.reduce((s, x) => s + (x.film.takes_s ?? 0), 0));
  const closed = $derived(
    !running && (shown.state === "over_age" || Boolean(task?.kind === "coat" && task.closes_at && task.closes_at <= now && !shown.state)),
  );
  const mates = $derived(task ? together(page, task, now) : []);
  const name = $derived(
    running
      ? groupName(
          page,
          all.map((x) => x.partId),
        )
      : mates.length > 1
        ? groupName(
            page,
            mates.map((t) => t.part_id),
          )
        : partName(page, partId),
  );
  const elapsed = $derived(running ? now - running.film.started_at : 0);
  const pot = $derived(page.view.pots.find((b) => b.batch_id === (layer ? batchFor(page, layer.id, now) : "")));
  const opens = $derived(task?.opens_at ?? null);
  const waiting = $derived(!running && opens !== null && opens > now && shown.state !== "open" && shown.state !== "closing");
  /** Nothing lies on it yet: not a window that closed, but metal that has been bare too long. */
  const bareTooLong = $derived(closed && part.films.length === 0);
  const stuck = $derived(closed && !running && part.films.length > 0 && !task?.steps.length);
  const mend = $derived((part.mend || "sand") as Mend);
  const by = $derived(actBy(task));
  const ruin = $derived(task?.kind === "coat" ? ruinedBy(page, mates, now) : "");
  const tooSoon = $derived(waiting || page.air.stops.length > 0 || Boolean(ruin));
  const combFilm = $derived(running?.film ?? part.films.at(-1));
  const wantWet = $derived(combFilm?.aim_wet_um ?? 0);
  const combOn = $derived(Boolean(combFilm?.aim_wet_um && sheet?.build === "film" && shown.state === "wet"));
  const w = $derived.by(() => {
    const layers = page.facts.layers.filter((l) => l.part_id === partId);
    return { um: layers.reduce((s, l) => s + (l.target_um ?? 0), 0), tol: layers.reduce((s, l) => s + l.tol_um, 0) };
  });
  /** Who is at it, where it is not who holds this phone. */
  const other = $derived.by(() => {
    const by = page.doing.find((d) => d.coat_id === running?.film.coat_id)?.by ?? "";
    return by === (crew.painter || session.who?.user) ? "" : by;
  });
  let toCoat = $state("");
  const steps = $derived.by(() => {
    if (running || task?.kind === "unmask" || task?.kind === "then" || (task && toCoat === task.task_key && !task.must.length)) return null;
    const ids = task ? [task.part_id] : page.state.parts.map((p) => p.part_id);
    return ids.map((id) => stepsDue(page, id)).find((x) => x && x.lines.length > 0) ?? null;
  });
  /** While the gauge stands under it the strip gives it room: the big button stays on the screen. */
  const strip = $derived(combOn ? 72 : 104);
  const scale = $derived(stripScale(now, now - 1.2 * 3600, now + 1800, now + 1.5 * 3600, width));

  /** When what is to be done to the last coat was last of use. */
  const missed = $derived(!running && task?.closes_at && task.closes_at <= now ? task.closes_at : null);

  const big = $derived(
    closed
      ? stuck
        ? say.common.late
        : say.today.sand
      : running
        ? stopwatch(elapsed)
        : waiting && opens
          ? stopwatch(opens - now)
          : by && by > now
            ? stopwatch(by - now)
            : missed || (by && by <= now)
              ? say.common.late
              : say.common.ready,
  );
  const smallTop = $derived(
    closed
      ? ""
      : running
        ? say.phone.ofAbout
        : waiting
          ? say.phone.until
          : missed
            ? say.phone.closed
            : by
              ? task?.kind === "unmask" || task?.kind === "then"
                ? say.phone.untilIt
                : say.phone.startWithin
              : "",
  );
  const smallBottom = $derived(
    closed
      ? bareTooLong
        ? say.phone.bareTooLong
        : say.phone.windowClosed
      : running
        ? duration(estimate_s)
        : waiting
          ? task?.kind === "unmask"
            ? say.common.unmask
            : task?.kind === "then"
              ? say.phone.itsTime
              : say.phone.recoat
          : missed
            ? when(missed, now)
            : by
              ? task?.kind === "unmask" || task?.kind === "then"
                ? say.phone.closes
                : when(by, now)
              : "",
  );
  /** What comes after what is going on or due, on the same part: what the tap on its end shows next. */
  const after = $derived.by((): string => {
    const key = running?.film.slot ?? (task?.kind === "coat" ? task.task_key : "");
    const next = page.state.cues.find((c) => c.task_key === key && c.on_kind === "coat_done")?.next;
    if (!next) return "";
    if (next.kind === "then") return stepWord(next.steps?.[0] ?? "");
    const l = page.facts.layers.find((x) => x.id === next.layer_id);
    return l ? say.phone.coatOf(page.facts.sheets[l.sheet_id]?.name ?? "", next.n, l.coats) : "";
  });
  const label = $derived(running ? say.phone.coat(name, running.film.n) : "");
  /** The coat the steps stand before; which one of how many is said where there are several. */
  const before = $derived.by((): string => {
    if (!task || !sheet) return say.phone.afterTheLastCoat;
    return layer?.coats === 1 ? say.phone.beforeOnlyCoat(sheet.name) : say.phone.beforeCoatOf(sheet.name, task.n, layer?.coats ?? "");
  });
</script>

<div class="phone" bind:clientWidth={width}>
  <header class="bar">
    <a href={`#/jobs/${page.head.id}/mix`}><b>{page.head.title}, {page.head.place}</b></a>
    {#if pot?.use_by_at && pot.use_by_at > now}<span>{say.phone.potLifeLeft} <span class="num">{duration(pot.use_by_at - now)}</span></span>
    {:else}<a class="line" href={`#/jobs/${page.head.id}/mix`}>{say.common.mix}</a>{/if}
    <span class="num">{clockTime(now)}</span>
  </header>
  {#if steps}
    <StepNow
      {page}
      group={steps.group}
      lines={steps.lines}
      must={task?.must ?? []}
      skip={task ? () => (toCoat = task!.task_key) : undefined}
      held
    />
    <Undo jobId={page.head.id} />
  {:else if !task && !running}
    <section class="what">
      <h1>{say.phone.allOn}</h1>
      <p>{say.phone.allCoatsOfThisJob}</p>
    </section>
    <p class="gap"><a class="line" href={`#/jobs/${page.head.id}/cure`}>{say.common.curingTimes}</a></p>
  {:else}
    <section class="what">
      <h1>{name}</h1>
      <p>
        {running
          ? running.film.paused
            ? say.phone.paused
            : other
              ? say.phone.isCoating(other)
              : say.common.coatInProgress
          : task?.kind === "unmask"
            ? say.common.masking
            : say.common.next}<br />
        {#if task?.kind === "unmask" && !running}{say.phone.removeMasking}{:else if task?.kind === "then" && !running}{task
            .steps[0]}{:else}{say.phone.coatOf(sheet?.name ?? "", running?.film.n ?? task?.n ?? "", layer?.coats ?? "")}{/if}
      </p>
    </section>
    <section class="time">
      <span class="num" class:word={big.length > 5 || !/\d/.test(big)} class:long={big.length > 8} role="timer">{big}</span>
      <div>{smallTop}<b>{smallBottom}</b></div>
    </section>
    {#if task?.kind === "coat" && !running && !waiting && !closed && task.closes_at && by !== task.closes_at}<p class="second">
        {say.phone.windowEnds(when(task.closes_at, now))}
      </p>{/if}
    {#if manner(task) && !running && task?.kind === "coat"}<p class="manner">{manner(task)}</p>{/if}
    <section class="prog">
      {#if running}
        <svg width="100%" height="20" aria-hidden="true"
          ><rect width="100%" height="20" fill="var(--field)" stroke="var(--ink)" stroke-width="3" /><rect
            width={`${Math.min(100, (100 * elapsed) / Math.max(60, estimate_s))}%`}
            height="20"
            fill="url(#p-wet)"
            stroke="var(--ink)"
            stroke-width="2"
          /></svg
        >
      {:else}<StateTag state={shown.state} word={shown.word} />{/if}
    </section>
    <svg class="strip" {width} height={strip} role="img" aria-label={say.phone.filmBuildSoFarAnd(partName(page, partId))}>
      <rect {width} height={strip} fill="var(--field)" />
      <Lane
        films={part.films}
        planned={(page.plan?.tasks ?? []).filter((t) => t.part_id === partId)}
        facts={page.facts}
        target_um={w.um}
        tol_um={w.tol}
        scale_um={w.um + w.tol}
        {scale}
        {width}
        height={strip}
        {now}
      />
      <line x1={scale.x(now)} x2={scale.x(now)} y1="0" y2={strip} stroke="var(--ink)" stroke-width="4" />
    </svg>
    {#if combOn && combFilm}
      <Comb
        want_um={wantWet}
        teeth={teeth()}
        low={combFilm.wet_um?.low ?? null}
        dries={combFilm.dry_um ? say.phone.driesTo(um(combFilm.dry_um.likely)) : ""}
        read={(low, high) => combRead(page, partId, combFilm.coat_id, low, high)}
      />
    {/if}
    <section class="air">
      <span><span class="num">{bare("degc", page.air.surface_degc)}°</span>{say.phone.surface}</span>
      <span><span class="num">{bare("degc", page.air.dew_point.value)}°</span>{say.common.dewPoint}</span>
      <span
        ><span class="num">{kelvin(page.air.margin.value)}</span>{page.air.stops.length
          ? say.phone.aboveDewPointStop
          : say.phone.aboveDewPointGood}</span
      >
      <span
        ><span class="num">{percent(page.air.rh_frac)}</span>{say.phone.humidity(
          page.air.source === "default" ? say.common.assumed : "",
        )}</span
      >
    </section>
    {#each page.air.stops.map(told) as s, i (i)}<p class="stopline"><b>{s.what}</b> {s.why} <b>{s.instead}</b></p>{/each}
    {#if sheet?.properties.needs_air_fed_mask && (running || task?.kind === "coat")}<Isocyanate asks={!running} />{/if}
    <Found {page} findings={unmet(page).filter((f) => f.part_id === partId && f.severity !== "note")} brief />
    <Undo jobId={page.head.id} />
    {#if session.mayWrite}
      {#if running}
        <Hold
          label={say.common.coatDone}
          about={all.map((x) => x.film.coat_id).join(" ")}
          note={cueText(page, running.film.slot)}
          fire={() =>
            endCoats(
              page,
              all.map((x) => x.film.coat_id),
              label,
            )}
        />
      {:else if stuck && task}
        <p class="stopline"><b>{say.phone.missedTakeOff}</b> {say.mends[mend]}</p>
        <Hold
          label={say.took[mend]}
          about={part.films.at(-1)!.coat_id}
          note={say.mends[mend]}
          fire={() => takeOff(page, part.films.at(-1)!.coat_id, mend)}
        />
      {:else if closed && task}
        {#each keyed(task.steps, String) as { key, row: step } (key)}<Hold
            label={fixedWord(step, part.mend ?? "")}
            about={task.task_key}
            note={say.phone.reopensTheRecoatWindowAfter(task.steps.map(stepWord).join(say.common.and))}
            fire={() => stepDone(page, [task!.part_id], step)}
          />{/each}
      {:else if task?.kind === "then"}
        <Hold
          label={sentence(doneWord(task.steps[0]!))}
          about={task.task_key}
          note={waiting
            ? say.phone.notBefore(when(opens!, now))
            : task.closes_at
              ? task.closes_at > now
                ? say.phone.inTimeUntil(when(task.closes_at, now))
                : say.phone.lateSinceDoItNow(when(task.closes_at, now))
              : ""}
          fire={() => stepDone(page, [task!.part_id], task!.steps[0]!)}
        />
      {:else if task?.kind === "unmask"}
        <Hold
          label={say.common.maskingRemoved}
          about={task.task_key}
          note={waiting ? say.phone.stillSoftCheckBeforePulling : say.phone.pullSlowly}
          fire={() => tapeOff(page, task!.part_id, "clean")}
        />
      {:else if task?.must.length}
        <p class="stopline">
          <b>{say.common.onHold}</b>
          {say.phone.completeBeforeCoating(task.must.join(say.common.and))}
          <a class="line" href={`#/jobs/${page.head.id}/stack`}>{say.common.openTheStepList}</a>
        </p>
      {:else if task}
        {#if ruin}<p class="stopline">
            <b>{say.phone.notYet}</b>
            {sentence(ruin)}.
            <button class="btn go" onclick={() => (toCoat = "")}>{say.phone.toTheSteps}</button>
          </p>{/if}
        <Hold
          small={tooSoon}
          label={tooSoon ? say.apply.startAnyway : mates.length > 1 ? say.phone.coatOnParts(task.n, mates.length) : say.common.startCoat}
          about={mates.map((t) => t.task_key).join(" ")}
          note={waiting
            ? say.phone.doNotRecoatBefore(when(opens!, now))
            : ruin
              ? ruin
              : task.volume_ml
                ? `${task.wet_um ? say.phone.wft(show("um", task.wet_um)) : ""}${volume(mates.reduce((s, t) => s + (t.volume_ml ?? 0), 0))}`
                : say.common.plannedValueNotSentYet}
          fire={() => startCoats(page, mates, now)}
        />
      {/if}
    {/if}
  {/if}
  <footer class="next">
    <div>
      {#if steps}<b>{before}</b><span class="mute">{say.phone.stepToDo(steps.lines.length)}</span>
      {:else if second}<b>{say.phone.then(partName(page, second.part_id))}</b><span class="mute"
          >{second.opens_at && second.opens_at > now
            ? (second.kind === "unmask" ? say.phone.unmaskFrom : say.phone.recoatFrom)(when(second.opens_at, now))
            : actBy(second)
              ? second.kind === "unmask"
                ? say.phone.unmaskUntil(when(actBy(second)!, now))
                : say.today.by(say.common.startInline, when(actBy(second)!, now))
              : say.common.noTimeLimit}</span
        >
      {:else if after}<b>{say.phone.afterIt(after)}</b>
      {:else}<b>{say.phone.nothingAfterThis}</b>{/if}
    </div>
    {#if running && session.mayWrite}<button onclick={() => pauseCoat(page, running!.film.coat_id, running!.film.paused)}
        >{running.film.paused ? say.common.resume : say.common.pause}</button
      >{/if}
    <button aria-expanded={more} onclick={() => (more = !more)}>{say.phone.more}</button>
  </footer>
  {#if more}
    <nav aria-label={say.jobHead.sectionsOfThisJob}>
      {#each STEPS as id (id)}{#if id !== "run"}<a class="line" href={`#/jobs/${page.head.id}/${id}`}>{stepName(id)}</a>{/if}{/each}
      <a class="line" href={`#/jobs/${page.head.id}/timer`}>{say.timer.title}</a>
      <a class="line" href={`#/jobs/${page.head.id}/dossier`}>{say.common.jobRecord}</a>
    </nav>
    <ThisDevice calendar={`/api/jobs/${page.head.id}/plan.ics`} />
    <Found {page} findings={unmet(page)} />
    <Builds {page} />
    {#if session.mayWrite}<div class="crew"><Crew /></div>{/if}
    <Entries {page} {partId}
      >{#if page.view.next.length}<Leave jobId={page.head.id} />{/if}</Entries
    >{/if}
</div>

<style>
  .phone {
    display: flex;
    flex-direction: column;
    flex: 1;
  }
  /* A thumb in a glove. */
  .phone :global(.btn),
  .phone :global(select),
  .phone :global(input:not([type="checkbox"], [type="radio"])),
  .phone :global(li button),
  .phone :global(summary),
  .phone nav :global(a),
  .bar a {
    min-height: 56px;
  }
  .bar a {
    display: flex;
    align-items: center;
  }
  .bar {
    display: flex;
    align-items: center;
    justify-content: space-between;
    min-height: 44px;
    padding: 0 16px;
    border-bottom: 2px solid var(--ink);
    border-top: 2px solid var(--ink);
  }
  .bar b {
    font-stretch: 84%;
  }
  .bar .num {
    font-size: 24px;
  }
  .what {
    display: flex;
    align-items: flex-end;
    justify-content: space-between;
    padding: 8px 16px 0;
    gap: 10px;
  }
  .what h1 {
    font-stretch: 64%;
    font-weight: 840;
    font-size: min(50px, 12.4vw);
    line-height: 0.9;
  }
  .what p {
    max-width: 46%;
    font-stretch: 78%;
    font-weight: 720;
    font-size: 19px;
    line-height: 1;
    text-align: right;
  }
  .second {
    padding: 4px 16px 0;
    font-size: 16px;
    text-align: right;
  }
  .manner {
    padding: 8px 16px 0;
    font-weight: 700;
    font-stretch: 84%;
    font-size: 17px;
  }
  .time {
    padding: 6px 16px 0;
    display: flex;
    align-items: flex-end;
    justify-content: space-between;
  }
  .time .num {
    font-size: 112px;
    line-height: 0.8;
    margin-left: -3px;
  }
  .time .num.word {
    font-size: 84px;
  }
  .time .num.long {
    font-size: min(60px, 15vw);
    white-space: nowrap;
  }
  .time div {
    font-size: 15px;
    text-align: right;
    line-height: 1.15;
  }
  .time div b {
    display: block;
    font-size: 22px;
    font-stretch: 74%;
    font-weight: 800;
  }
  .prog {
    padding: 10px 16px 8px;
  }
  .strip {
    flex: none;
  }
  .air {
    display: grid;
    grid-template-columns: repeat(4, auto);
    justify-content: space-between;
    padding: 8px 16px;
    font-size: 13.5px;
    line-height: 1.15;
  }
  .air .num {
    display: block;
    font-size: 24px;
    line-height: 1;
  }
  .stopline {
    padding: 6px 16px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
    font-size: 14px;
  }
  .gap {
    padding: 16px;
  }
  .next {
    min-height: 56px;
    display: grid;
    grid-template-columns: 1fr auto auto;
    align-items: stretch;
    font-size: 16px;
    line-height: 1.15;
    border-top: 2px solid var(--ink);
  }
  .next div {
    padding: 0 16px;
    display: flex;
    flex-direction: column;
    justify-content: center;
  }
  .next button {
    font: inherit;
    font-weight: 700;
    border: 0;
    border-left: 2px solid var(--ink);
    background: transparent;
    color: var(--ink);
    min-width: 84px;
    min-height: 56px;
  }
  .crew {
    padding: 0 16px;
  }
  nav {
    display: grid;
    grid-template-columns: 1fr 1fr;
    padding: 6px 16px;
    border-top: 2px solid var(--edge);
  }
  nav a {
    min-height: 46px;
    display: flex;
    align-items: center;
  }
</style>
