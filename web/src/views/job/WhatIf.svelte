<script lang="ts">
  /** What if: another start, warm air, a second painter, another hardener or order; seen before it is chosen. */
  import { api, inWords, type JobPage, type Schemas } from "../../api/client";
  import { clockTime, duration, unit, when, entered } from "../../lib/format";
  import { plannersAnswer, whileHere } from "../../lib/asked";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { timeField, timeTyped } from "../../lib/times";
  import { typed } from "../../lib/units";
  import { say } from "../../words";

  type Props = { page: JobPage; now: number; said: (text: string) => void };
  let { page, now, said }: Props = $props();
  const here = whileHere();
  type Wishes = Schemas["WishesIn"];
  const goals: [NonNullable<Wishes["objective"]>, string][] = [
    ["finish", say.whatIf.earliestFinish],
    ["due", say.whatIf.meetTheDeadlines],
    ["mixes", say.common.fewestMixes],
    ["waiting", say.common.leastWaiting],
  ];
  let form = $state({
    objective: "finish" as NonNullable<Wishes["objective"]>,
    start: "",
    leave: "",
    painters: "",
    warm: "",
    hardener: "sheet" as NonNullable<Wishes["hardener"]>,
    thinner: "sheet" as NonNullable<Wishes["thinner"]>,
    airflow: false,
    backwards: false,
    keep: true,
  });
  let answer = $state.raw<Schemas["WhatIfAnswer"] | null>(null);
  let asked = $state.raw<Wishes | null>(null);
  let refusal = $state("");
  let busy = $state(false);
  let seconds = $state(0);
  // The fields take the job's dates once; after that they are the writer's.
  // svelte-ignore state_referenced_locally
  let dates = $state({ due: timeField(page.due_at), ready: timeField(page.ready_at), slot: timeField(page.slot_at) });
  let onePart = $state("");
  // svelte-ignore state_referenced_locally
  let slotFor = $state(page.slot_for as Schemas["DatesIn"]["slot_for"]);
  // svelte-ignore state_referenced_locally
  let partTimes = $state(Object.fromEntries(page.facts.parts.map((p) => [p.id, timeField(page.parts_from[p.id])])));

  function wishes(): Wishes | null {
    const [start, leave] = [timeTyped(form.start, now), timeTyped(form.leave, now)];
    const painters = form.painters.trim() ? typed(form.painters) : null;
    const warm = form.warm.trim() ? entered("degc", form.warm) : null;
    for (const [name, at, text] of [
      [say.common.start, start, form.start],
      [say.whatIf.leave, leave, form.leave],
    ] as const) {
      if (Number.isNaN(at)) return bad(say.whatIf.enteredExpectedATimeLike(name, text));
    }
    if (painters !== null && !Number.isInteger(painters)) return bad(say.whatIf.paintersEnteredExpectedAWhole(form.painters));
    if (warm !== null && !Number.isFinite(warm)) return bad(say.whatIf.heatToEnteredExpected(form.warm, unit("degc")));
    return {
      objective: form.objective,
      start_at: start,
      leave_at: leave,
      painters,
      warm_degc: warm,
      hardener: form.hardener,
      thinner: form.thinner,
      airflow: form.airflow,
      backwards: form.backwards,
      keep_moved: form.keep,
      keyed: [],
      stay_s: 0,
    };
  }
  function bad(text: string): null {
    refusal = text;
    return null;
  }
  async function see(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    refusal = "";
    const body = wishes();
    if (!body) return;
    busy = true;
    const { data, error } = await plannersAnswer(
      here,
      api.POST("/api/jobs/{job_id}/what-if", { params: { path: { job_id: page.head.id } }, body }),
      (told) => told.what_if,
      (s) => (seconds = s),
    );
    [busy, seconds] = [false, 0];
    // What is adopted is what is shown: without an answer there is neither.
    [asked, answer] = data ? [body, data] : [null, null];
    if (!data) refusal = inWords(error);
  }
  async function adopt(): Promise<void> {
    if (!asked) return;
    busy = true;
    const { data, error } = await plannersAnswer(
      here,
      api.POST("/api/jobs/{job_id}/plan", { params: { path: { job_id: page.head.id } }, body: { wishes: asked } }),
      (told) => told.plan,
      (s) => (seconds = s),
    );
    [busy, seconds] = [false, 0];
    if (!data) return void (refusal = inWords(error));
    answer = null;
    said(say.whatIf.planUpdatedDone(when(data.plan.finish_at ?? now, now)));
    outbox.taken += 1;
  }
  async function keepDates(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    refusal = "";
    const at = { due_at: timeTyped(dates.due, now), ready_at: timeTyped(dates.ready, now), slot_at: timeTyped(dates.slot, now) };
    for (const [name, value] of Object.entries(at)) {
      if (Number.isNaN(value))
        return void bad(
          say.whatIf.expectedATimeLike18(
            name === "due_at" ? say.whatIf.deadline : name === "ready_at" ? say.whatIf.partsAvailableFrom : say.whatIf.launchOrHandover,
          ),
        );
    }
    const parts_from: Record<string, number> = {};
    for (const part of page.facts.parts) {
      const from = timeTyped(partTimes[part.id] ?? "", now);
      if (Number.isNaN(from)) return void bad(say.whatIf.availableFromEnteredExpectedA(part.name, partTimes[part.id] ?? ""));
      if (from !== null) parts_from[part.id] = from;
    }
    const { error } = await api.POST("/api/jobs/{job_id}/dates", {
      params: { path: { job_id: page.head.id } },
      body: { ...at, slot_for: slotFor, parts_from },
    });
    if (error) return void (refusal = inWords(error));
    said(say.whatIf.datesSavedPlanUpdated);
    outbox.taken += 1;
  }
  const moved = (a: number | null | undefined, b: number | null | undefined): string => {
    if (!a || !b) return "";
    const d = b - a;
    return Math.abs(d) < 60 ? say.whatIf.theSame : `${duration(Math.abs(d))} ${d < 0 ? say.whatIf.earlier : say.whatIf.later}`;
  };
</script>

<details class="whatif">
  <summary>{say.whatIf.whatIfAndDates}</summary>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <form onsubmit={see} aria-label={say.whatIf.whatIf}>
    <label
      >{say.whatIf.optimiseFor}
      <select bind:value={form.objective}
        >{#each goals as [id, words] (id)}<option value={id}>{words}</option>{/each}</select
      ></label
    >
    <label>{say.whatIf.startNotBefore} <input type="time" bind:value={form.start} /></label>
    <label>{say.whatIf.leaveAt} <input type="time" bind:value={form.leave} /></label>
    <label>{say.common.painters} <input inputmode="numeric" placeholder={say.whatIf.asInTheShop} bind:value={form.painters} /></label>
    <label
      >{say.whatIf.heatTheAirTo(unit("degc"))}
      <input inputmode="decimal" placeholder={say.whatIf.noHeating} bind:value={form.warm} /></label
    >
    <label
      >{say.whatIf.hardener}
      <select bind:value={form.hardener}
        ><option value="sheet">{say.common.asOnTheDataSheet}</option><option value="fast">{say.whatIf.fastAssumed075}</option><option
          value="slow">{say.whatIf.slowAssumed13}</option
        ></select
      ></label
    >
    <label
      >{say.whatIf.thinner}
      <select bind:value={form.thinner}
        ><option value="sheet">{say.common.asOnTheDataSheet}</option><option value="fast">{say.whatIf.fastAssumed08}</option><option
          value="slow">{say.whatIf.slowAssumed13}</option
        ></select
      ></label
    >
    <label class="tick"><input type="checkbox" bind:checked={form.airflow} /> {say.whatIf.moveAir}</label>
    {#if form.airflow}<p class="mute wide">{say.whatIf.moveAirCaution}</p>{/if}
    <label class="tick"><input type="checkbox" bind:checked={form.backwards} /> {say.whatIf.startAsLateAsThe}</label>
    <label class="tick"><input type="checkbox" bind:checked={form.keep} /> {say.whatIf.keepManualChanges}</label>
    <button class="btn small" disabled={busy}
      >{seconds ? say.apply.planningFor(seconds) : busy ? say.whatIf.calculating : say.whatIf.preview}</button
    >
  </form>
  {#if answer}
    <div class="answer" role="status">
      <p class="big">
        <span class="num">{answer.then?.finish_at ? clockTime(answer.then.finish_at) : say.whatIf.no}</span>
        <span
          >{say.whatIf.allJobsMixesNow(
            answer.then?.finish_at
              ? say.whatIf.thisJobIsDone(when(answer.then.finish_at, now), moved(answer.now?.finish_at, answer.then.finish_at))
              : say.whatIf.noScheduleIsPossibleWith,
            moved(answer.shop_finish_now, answer.shop_finish_then) || say.whatIf.noEnd,
            answer.mixes_then,
            answer.mixes_now,
          )}</span
        >
      </p>
      {#each answer.conflicts as c, i (i)}<p class="refusal"><b>{say.whatIf.cannotBeMet}</b> {c.why}.</p>{/each}
      <ul>
        {#each answer.changes.slice(0, 6) as c, i (i)}<li>{c.text}</li>{/each}
      </ul>
      {#if answer.changes.length > 6}<p class="mute">{say.whatIf.andMore(answer.changes.length - 6)}</p>{/if}
      {#if session.mayWrite && answer.then?.finish_at}<button class="btn small go" disabled={busy} onclick={adopt}
          >{say.whatIf.useThisPlan}</button
        >{/if}
    </div>
  {/if}
  {#if session.mayWrite}
    <form onsubmit={keepDates} aria-label={say.whatIf.datesOfThisJob}>
      <label>{say.whatIf.deadline} <input type="datetime-local" bind:value={dates.due} /></label>
      <label>{say.whatIf.partsAvailableFrom} <input type="datetime-local" bind:value={dates.ready} /></label>
      {#if page.facts.parts.length > 1}
        <label
          >{say.whatIf.aPartThatArrivesLater}
          <select bind:value={onePart}
            ><option value="">{say.common.none}</option>{#each page.facts.parts as p (p.id)}<option value={p.id}
                >{p.name}{partTimes[p.id] ? `, ${partTimes[p.id]}` : ""}</option
              >{/each}</select
          ></label
        >
        {#if onePart}<label>{say.whatIf.availableFrom} <input type="datetime-local" bind:value={partTimes[onePart]} /></label>{/if}
      {/if}
      <label>{say.whatIf.launchOrHandoverAt} <input type="datetime-local" bind:value={dates.slot} /></label>
      <label
        >{say.whatIf.slotFor}
        <select bind:value={slotFor}
          >{#each Object.entries(say.slotFor) as [id, words] (id)}<option value={id === "any" ? "" : id}>{words}</option>{/each}</select
        ></label
      >
      <button class="btn small">{say.whatIf.saveDates}</button>
    </form>
  {/if}
</details>

<style>
  .whatif {
    border-top: 2px solid var(--ink);
    padding-top: 6px;
  }
  summary {
    font-stretch: 74%;
    font-weight: 800;
    font-size: 21px;
    min-height: 44px;
    display: flex;
    align-items: center;
    cursor: pointer;
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  form {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
    gap: 10px 14px;
    align-items: end;
    padding: 8px 0 12px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .tick {
    display: flex;
    gap: 10px;
    align-items: center;
    min-height: 44px;
  }
  .tick input {
    flex: none;
    width: 24px;
    min-height: 24px;
  }
  .wide {
    grid-column: 1 / -1;
  }
  .answer {
    background: var(--lift);
    padding: 12px;
    display: grid;
    gap: 8px;
    border-left: 10px solid var(--ink);
  }
  .big {
    display: flex;
    gap: 14px;
    align-items: center;
  }
  .big .num {
    font-size: 46px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  ul {
    list-style: none;
    display: grid;
    gap: 3px;
  }
  .go {
    justify-self: start;
  }
</style>
