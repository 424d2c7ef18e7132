<script lang="ts">
  /** The step that is due before the next coat, or after the last: its check, what may hurt, right or not right. */
  import type { JobPage } from "../../api/client";
  import { stepChecked } from "../../lib/actions";
  import { duration } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import { Settled } from "../../lib/settled.svelte";
  import type { Group, Line } from "../../lib/works";
  import Hold from "../../ui/Hold.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage; group: Group; lines: Line[]; must: string[]; skip?: () => void; held?: boolean };
  /** `held`: one gloved hand, the big action wants a hold. */
  let { page, group, lines, must, skip, held = false }: Props = $props();
  const line = $derived(lines[0]!);
  const work = $derived(line.work);
  const all = $derived(group.steps.filter((s) => s.work.step !== "coat").length);
  const at = $derived(group.steps.filter((s) => s.work.step !== "coat").findIndex((s) => s.work.key === work.key) + 1);
  /** Of parts that are worked alike: all of them, or the one that is just done. */
  let only = $state("");
  const chosen = $derived(group.part_ids.includes(only) ? [only] : group.part_ids);
  /** As long as the plan has it for all of them together; without a plan, as long as each takes. */
  const takes_s = $derived.by((): number => {
    const keys = group.part_ids.map((id) => `${id}/step/${work.key}`);
    const own = (page.plan?.tasks ?? []).filter((t) => keys.some((k) => t.key === k || t.key.startsWith(`${k}~`)));
    return own.length ? own.reduce((s, t) => s + t.end_at - t.start_at, 0) : work.takes_s;
  });
  const settled = new Settled(() => work.key);
  /** What it was sanded with, where that is not what the list has. */
  const GRITS = [36, 60, 80, 120, 180, 240, 320, 400, 500, 600, 800, 1000, 1200, 1500, 2000, 3000];
  let used = $state<{ key: string; grit: number } | null>(null);
  const grit = $derived(used?.key === work.key ? used.grit : (work.grit ?? null));
  const look = (right: boolean): void => void stepChecked(page, chosen, work, right, grit);
</script>

<div class="stepnow" class:held>
  <p class="mute">
    {say.stepNow.stepOf(
      at,
      all,
      group.names.length > 2 ? say.stepNow.parts(group.names.length) : group.names.join(", "),
      takes_s ? say.stepNow.about(duration(takes_s)) : "",
    )}
  </p>
  <h2>{work.name}</h2>
  {#if group.part_ids.length > 1 && session.mayWrite}
    <div class="row" role="group" aria-label={say.stepNow.forWhichParts}>
      <button class="btn small" class:go={chosen.length > 1} aria-pressed={chosen.length > 1} onclick={() => (only = "")}
        >{say.stepNow.all(group.part_ids.length)}</button
      >
      {#each group.part_ids as id, i (id)}<button
          class="btn small"
          class:go={only === id}
          aria-pressed={only === id}
          onclick={() => (only = id)}>{group.names[i]}</button
        >{/each}
    </div>
  {/if}
  <p>{say.stepNow.check(work.check)}</p>
  {#if work.grit && session.mayWrite}<label class="grit"
      >{say.stepNow.sandedWith}
      <select value={String(grit)} onchange={(e) => (used = { key: work.key, grit: Number(e.currentTarget.value) })}
        >{#each [...new Set([...GRITS, work.grit])].toSorted((a, b) => a - b) as g (g)}<option value={String(g)}>P{g}</option
          >{/each}</select
      ></label
    >{/if}
  {#if work.tools.length}<p class="mute">{work.tools.join(", ")}</p>{/if}
  {#each work.cautions ?? [] as c, i (i)}<p class="haz">{c}</p>{/each}
  {#if line.held === false}<p class="haz"><b>{say.common.failed}</b> {work.if_failed || say.common.repeatTheStep}</p>{/if}
  {#if must.length}<p class="haz"><b>{say.common.onHold}</b> {say.stepNow.completeBeforeCoating(must.join(say.common.and))}</p>{/if}
  {#if session.mayWrite}
    {#if held}
      <div class="row">
        <button class="btn" onclick={() => look(false)}>{say.common.failButton}</button>{#if skip && !must.length}<button
            class="btn"
            onclick={skip}>{say.stepNow.skipToTheCoat}</button
          >{/if}
      </div>
      <div class="big">
        <Hold
          label={say.common.passButton}
          about={lines.map((l) => l.work.key).join(" ")}
          note={lines[1] ? say.stepNow.next(lines[1].work.name) : skip ? say.stepNow.nextTheCoat : say.stepNow.lastStep}
          fire={() => look(true)}
        />
      </div>
    {:else}
      <div class="row">
        <button class="btn go" disabled={!settled.ready} onclick={() => look(true)}>{say.common.passButton}</button><button
          class="btn"
          disabled={!settled.ready}
          onclick={() => look(false)}>{say.common.failButton}</button
        >
      </div>
      {#if skip && !must.length}<div class="row">
          <button class="btn small" onclick={skip}>{say.stepNow.skipTheChecksAndGo}</button>
        </div>{/if}
    {/if}
  {/if}
</div>

<style>
  .stepnow {
    display: grid;
    gap: 8px;
  }
  .stepnow.held {
    padding: 10px 16px 0;
    font-size: 17px;
    flex: 1;
    display: flex;
    flex-direction: column;
  }
  .held h2 {
    font-stretch: 72%;
    font-weight: 820;
    font-size: 38px;
    line-height: 1;
  }
  .haz {
    font-size: 14px;
    border-left: 4px solid var(--ink);
    padding-left: 8px;
  }
  .held .haz {
    font-size: 15px;
  }
  .grit {
    display: flex;
    align-items: center;
    gap: 10px;
    font-weight: 640;
  }
  .grit select {
    width: 110px;
  }
  .row {
    display: flex;
    gap: 10px;
    flex-wrap: wrap;
  }
  .row .go {
    flex: 1;
  }
  .held .row .btn {
    flex: 1 1 90px;
    min-height: 56px;
    padding: 0 8px;
  }
  .big {
    margin: auto -16px 0;
    display: flex;
  }
</style>
