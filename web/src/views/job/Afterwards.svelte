<script lang="ts">
  /** What was done with gloves on and is written down later: coats and steps on several parts, each with its times. */
  import type { JobPage } from "../../api/client";
  import { batchAt } from "../../lib/actions";
  import { serverClock } from "../../lib/clock.svelte";
  import { opened } from "../../lib/opened";
  import { outbox } from "../../lib/outbox.svelte";
  import { timeField, timeTyped } from "../../lib/times";
  import { say } from "../../words";

  type Props = { page: JobPage; partId: string; done: () => void };
  let { page, partId, done }: Props = $props();
  type What = "coat" | "abrade" | "wipe" | "unmask";
  type Row = { key: number; what: What; parts: string[]; start: string; end: string };
  let made = 0;
  const HALF_HOUR_S = 1800;
  const row = (from: number, parts: string[]): Row => ({
    key: ++made,
    what: "coat",
    parts,
    start: timeField(from),
    end: timeField(from + HALF_HOUR_S / 2),
  });
  // One row to start with; after that they are the writer's.
  // svelte-ignore state_referenced_locally
  let rows = $state<Row[]>([row(serverClock.now - HALF_HOUR_S, partId ? [partId] : [])]);
  let refusal = $state("");
  const parts = $derived(page.facts.parts.filter((p) => !p.retired));
  const WHAT: [What, string][] = [
    ["coat", say.afterwards.coat],
    ["abrade", say.common.sanded],
    ["wipe", say.common.wiped],
    ["unmask", say.common.maskingRemoved],
  ];

  /** The coats a part still lacks, in order: those that are on, and those of rows above, are taken off. */
  function due(id: string, taken: number): { layer_id: string; n: number } | undefined {
    const all = page.facts.layers
      .filter((l) => l.part_id === id)
      .toSorted((a, b) => a.position - b.position)
      .flatMap((l) => Array.from({ length: l.coats }, (_, i) => ({ layer_id: l.id, n: i + 1 })));
    const on = page.state.parts.find((p) => p.part_id === id)?.films.length ?? 0;
    return all[on + taken];
  }

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    refusal = "";
    const now = serverClock.now;
    const facts: { kind: string; body: Record<string, unknown>; at: number }[] = [];
    const taken: Record<string, number> = {};
    for (const [i, r] of rows.entries()) {
      const [start, end] = [timeTyped(r.start, now), timeTyped(r.end, now)];
      const until = r.what === "coat" ? end : start;
      if (!r.parts.length) return void (refusal = say.afterwards.tickAPart(i + 1));
      if (start === null || Number.isNaN(start) || until === null || Number.isNaN(until))
        return void (refusal = say.afterwards.enterTimes(i + 1));
      if (until > now || until < start) return void (refusal = say.afterwards.timesInOrder(i + 1));
      if (r.what !== "coat") {
        const body = r.what === "unmask" ? { part_ids: r.parts, result: "clean" } : { part_ids: r.parts, step: r.what };
        facts.push({ kind: r.what === "unmask" ? "unmasked" : "step_done", body, at: start });
        continue;
      }
      const coats = [];
      for (const id of r.parts) {
        const next = due(id, taken[id] ?? 0);
        const name = parts.find((p) => p.id === id)?.name ?? "";
        if (!next) return void (refusal = say.afterwards.noCoatLeft(i + 1, name));
        taken[id] = (taken[id] ?? 0) + 1;
        coats.push({ coat_id: crypto.randomUUID(), part_id: id, ...next });
      }
      // One entry for each place and mix: whatever is judged by them is told of its own.
      const apart: Record<string, typeof coats> = {};
      for (const c of coats) {
        const key = `${parts.find((p) => p.id === c.part_id)?.place_id}|${batchAt(page, c.layer_id, start) ?? ""}`;
        apart[key] = [...(apart[key] ?? []), c];
      }
      for (const [key, own] of Object.entries(apart)) {
        const [place_id, batch] = key.split("|");
        const batch_ids = batch ? [batch] : [];
        facts.push({ kind: "coat_started", body: { coats: own, facts_id: page.facts.id, batch_ids, place_id }, at: start });
        facts.push({ kind: "coat_done", body: { coat_ids: own.map((c) => c.coat_id), draws: [] }, at: until });
      }
    }
    await outbox.add(page.head.id, facts, say.afterwards.saved(rows.length));
    done();
  }
</script>

<form onsubmit={save} novalidate {@attach opened(done)}>
  <h3>{say.afterwards.title}</h3>
  <p class="mute">{say.afterwards.how}</p>
  {#each rows as r, i (r.key)}
    <fieldset>
      <legend>{say.afterwards.line(i + 1)}</legend>
      <label
        >{say.afterwards.what}
        <select bind:value={r.what}
          >{#each WHAT as [id, words] (id)}<option value={id}>{words}</option>{/each}</select
        ></label
      >
      <label>{r.what === "coat" ? say.afterwards.started : say.afterwards.at} <input type="datetime-local" bind:value={r.start} /></label>
      {#if r.what === "coat"}<label>{say.afterwards.ended} <input type="datetime-local" bind:value={r.end} /></label>{/if}
      <div class="parts" role="group" aria-label={say.afterwards.onWhichParts}>
        {#each parts as p (p.id)}<label class="tick"><input type="checkbox" value={p.id} bind:group={r.parts} /> {p.name}</label>{/each}
      </div>
      {#if rows.length > 1}<button type="button" class="btn small" onclick={() => rows.splice(i, 1)}>{say.common.remove}</button>{/if}
    </fieldset>
  {/each}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <div class="row">
    <button
      type="button"
      class="btn small"
      onclick={() => {
        const last = rows.at(-1)!;
        rows.push(row(timeTyped(last.end, serverClock.now) || serverClock.now, [...last.parts]));
      }}>{say.afterwards.another}</button
    >
    <button class="btn small go">{say.common.save}</button>
    <button type="button" class="btn small" onclick={done}>{say.common.cancel}</button>
  </div>
</form>

<style>
  form {
    display: grid;
    gap: 10px;
  }
  fieldset {
    display: flex;
    gap: 10px;
    flex-wrap: wrap;
    align-items: end;
    border: 1px solid var(--edge);
    padding: 10px;
    min-width: 0;
  }
  .parts,
  .row {
    display: flex;
    gap: 10px;
    flex-wrap: wrap;
  }
  select,
  input[type="datetime-local"] {
    margin-top: 6px;
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
</style>
