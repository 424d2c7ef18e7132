<script lang="ts">
  /** What if: another start, warm air, a second painter, another hardener or order; seen before it is chosen. */
  import { api, inWords, type JobPage, type Schemas } from "../../api/client";
  import { clockTime, duration, unit, when, entered } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { timeField, timeTyped } from "../../lib/times";
  import { typed } from "../../lib/units";

  type Props = { page: JobPage; now: number; said: (text: string) => void };
  let { page, now, said }: Props = $props();
  type Wishes = Schemas["WishesIn"];
  const goals: [NonNullable<Wishes["objective"]>, string][] = [
    ["finish", "done earliest"],
    ["due", "done before the deadlines"],
    ["mixes", "fewest mixes"],
    ["waiting", "least standing about"],
  ];
  let form = $state({
    objective: "finish" as NonNullable<Wishes["objective"]>,
    start: "",
    leave: "",
    painters: "",
    warm: "",
    hardener: "sheet" as NonNullable<Wishes["hardener"]>,
    backwards: false,
    keep: true,
  });
  let answer = $state.raw<Schemas["WhatIfOut"] | null>(null);
  let asked = $state.raw<Wishes | null>(null);
  let refusal = $state("");
  let busy = $state(false);
  // The fields take the job's dates once; after that they are the writer's.
  // svelte-ignore state_referenced_locally
  let dates = $state({ due: timeField(page.due_at), ready: timeField(page.ready_at), slot: timeField(page.slot_at) });
  let onePart = $state("");
  // svelte-ignore state_referenced_locally
  let partTimes = $state(Object.fromEntries(page.facts.parts.map((p) => [p.id, timeField(page.parts_from[p.id])])));

  function wishes(): Wishes | null {
    const [start, leave] = [timeTyped(form.start, now), timeTyped(form.leave, now)];
    const painters = form.painters.trim() ? typed(form.painters) : null;
    const warm = form.warm.trim() ? entered("degc", form.warm) : null;
    for (const [name, at, text] of [
      ["Start", start, form.start],
      ["Leave", leave, form.leave],
    ] as const) {
      if (Number.isNaN(at)) return bad(`${name}: "${text}" given, expected a time like 16:20.`);
    }
    if (painters !== null && !Number.isInteger(painters)) return bad(`Painters: "${form.painters}" given, expected a whole number.`);
    if (warm !== null && !Number.isFinite(warm)) return bad(`Warm air: "${form.warm}" given, expected ${unit("degc")}.`);
    return {
      objective: form.objective,
      start_at: start,
      leave_at: leave,
      painters,
      warm_degc: warm,
      hardener: form.hardener,
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
    const { data, error } = await api.POST("/api/jobs/{job_id}/what-if", { params: { path: { job_id: page.head.id } }, body });
    busy = false;
    // What is adopted is what is shown: without an answer there is neither.
    [asked, answer] = data ? [body, data] : [null, null];
    if (!data) refusal = inWords(error);
  }
  async function adopt(): Promise<void> {
    if (!asked) return;
    busy = true;
    const { data, error } = await api.POST("/api/jobs/{job_id}/plan", {
      params: { path: { job_id: page.head.id } },
      body: { wishes: asked },
    });
    busy = false;
    if (!data) return void (refusal = inWords(error));
    answer = null;
    said(`Adopted. Done ${when(data.plan.finish_at ?? now, now)}.`);
    outbox.taken += 1;
  }
  async function keepDates(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    refusal = "";
    const at = { due_at: timeTyped(dates.due, now), ready_at: timeTyped(dates.ready, now), slot_at: timeTyped(dates.slot, now) };
    for (const [name, value] of Object.entries(at)) {
      if (Number.isNaN(value))
        return void bad(
          `${name === "due_at" ? "Must be done by" : name === "ready_at" ? "Parts are there from" : "Launch"}: expected a time like 18:45 or 2026-11-27 08:00.`,
        );
    }
    const parts_from: Record<string, number> = {};
    for (const part of page.facts.parts) {
      const from = timeTyped(partTimes[part.id] ?? "", now);
      if (Number.isNaN(from))
        return void bad(`${part.name} is there from: "${partTimes[part.id]}" given, expected a time like 18:45 or 2026-11-27 08:00.`);
      if (from !== null) parts_from[part.id] = from;
    }
    const { error } = await api.POST("/api/jobs/{job_id}/dates", {
      params: { path: { job_id: page.head.id } },
      body: { ...at, parts_from },
    });
    if (error) return void (refusal = inWords(error));
    said("Dates kept, the plan laid out anew.");
    outbox.taken += 1;
  }
  const moved = (a: number | null | undefined, b: number | null | undefined): string => {
    if (!a || !b) return "";
    const d = b - a;
    return Math.abs(d) < 60 ? "the same" : `${duration(Math.abs(d))} ${d < 0 ? "earlier" : "later"}`;
  };
</script>

<details class="whatif">
  <summary>What if, and dates</summary>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <form onsubmit={see} aria-label="What if">
    <label
      >Order for <select bind:value={form.objective}
        >{#each goals as [id, words] (id)}<option value={id}>{words}</option>{/each}</select
      ></label
    >
    <label>Start not before <input placeholder="now" bind:value={form.start} /></label>
    <label>Leave at <input placeholder="closing time" bind:value={form.leave} /></label>
    <label>Painters <input inputmode="numeric" placeholder="as the shop has" bind:value={form.painters} /></label>
    <label>Warm the air to, {unit("degc")} <input inputmode="decimal" placeholder="as it is" bind:value={form.warm} /></label>
    <label
      >Hardener <select bind:value={form.hardener}
        ><option value="sheet">as on the sheet</option><option value="fast">faster, assumed ×0.75</option><option value="slow"
          >slower, assumed ×1.3</option
        ></select
      ></label
    >
    <label class="tick"><input type="checkbox" bind:checked={form.backwards} /> begin as late as the deadline allows</label>
    <label class="tick"><input type="checkbox" bind:checked={form.keep} /> keep what was moved by hand</label>
    <button class="btn small" disabled={busy}>{busy ? "Looking" : "See what it would be"}</button>
  </form>
  {#if answer}
    <div class="answer" role="status">
      <p class="big">
        <span class="num">{answer.then?.finish_at ? clockTime(answer.then.finish_at) : "no"}</span>
        <span
          >{answer.then?.finish_at
            ? `This job is done ${when(answer.then.finish_at, now)}, ${moved(answer.now?.finish_at, answer.then.finish_at)}.`
            : "It cannot be planned so."}
          The whole shop: {moved(answer.shop_finish_now, answer.shop_finish_then) || "no end"}. Mixes {answer.mixes_then}, now {answer.mixes_now}.</span
        >
      </p>
      {#each answer.conflicts as c, i (i)}<p class="refusal"><b>Cannot be met:</b> {c.why}.</p>{/each}
      <ul>
        {#each answer.changes.slice(0, 6) as c, i (i)}<li>{c.text}</li>{/each}
      </ul>
      {#if answer.changes.length > 6}<p class="mute">And {answer.changes.length - 6} more.</p>{/if}
      {#if session.mayWrite && answer.then?.finish_at}<button class="btn small go" disabled={busy} onclick={adopt}>Adopt this plan</button
        >{/if}
    </div>
  {/if}
  {#if session.mayWrite}
    <form onsubmit={keepDates} aria-label="Dates of this job">
      <label>Must be done by <input placeholder="18:45, or with its date" bind:value={dates.due} /></label>
      <label>Parts are there from <input placeholder="now" bind:value={dates.ready} /></label>
      {#if page.facts.parts.length > 1}
        <label
          >A part that comes later <select bind:value={onePart}
            ><option value="">none</option>{#each page.facts.parts as p (p.id)}<option value={p.id}
                >{p.name}{partTimes[p.id] ? `, ${partTimes[p.id]}` : ""}</option
              >{/each}</select
          ></label
        >
        {#if onePart}<label>It is there from <input placeholder="with the others" bind:value={partTimes[onePart]} /></label>{/if}
      {/if}
      <label>Launched or handed over at <input placeholder="no slot" bind:value={dates.slot} /></label>
      <button class="btn small">Keep dates</button>
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
    width: 24px;
    min-height: 24px;
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
