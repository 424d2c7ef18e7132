<script lang="ts">
  /** What a change does to what is on the log already, before it is saved. */
  import { api, type Schemas } from "../api/client";
  import { Answer } from "../lib/answer.svelte";
  import type { Draft } from "../lib/draft.svelte";
  import { judged } from "../lib/judged";
  import { say } from "../words";

  type Props = { jobId: string; draft: Draft };
  let { jobId, draft }: Props = $props();
  const told = new Answer<Schemas["PreviewOut"]>();
  const change = $derived(told.data?.change);
  $effect(() => {
    const body = { ...draft.stack(), reason: "" };
    if (draft.wrong()) return told.forget();
    const wait = setTimeout(
      () => void told.ask(() => api.POST("/api/jobs/{job_id}/stack/preview", { params: { path: { job_id: jobId } }, body })),
      400,
    );
    return () => clearTimeout(wait);
  });
  const list = (x: string[]): string => (x.length > 4 ? `${x.slice(0, 4).join(", ")}, ${say.change.more(x.length - 4)}` : x.join(", "));
</script>

{#if change}
  <section aria-label={say.change.title}>
    <h2>{say.change.title}</h2>
    {#if !change.parts.length && !change.new_findings.length && !change.gone_findings.length}<p>{say.change.nothing}</p>{/if}
    {#each change.parts as p (p.part_id)}
      <p>
        <b>{p.name}.</b>
        {#if p.coats_after !== p.coats_before}{say.change.coats(p.coats_before, p.coats_after)}{/if}
        {#if p.kept_coats || p.kept_steps}{say.change.kept(p.kept_coats, p.kept_steps)}{/if}
      </p>
      {#if p.off_coats.length}<p class="warn">{say.change.off(list(p.off_coats))}</p>{/if}
      {#if p.lost_steps.length}<p class="warn">{say.change.lost(list(p.lost_steps))}</p>{/if}
      {#if p.new_steps.length}<p class="mute">{say.change.fresh(list(p.new_steps))}</p>{/if}
    {/each}
    {#each change.new_findings as f, i (i)}<p class="warn"><b>{say.change.finding}</b> {judged(f).what}</p>{/each}
    {#each change.gone_findings as f, i (i)}<p class="mute">{say.change.gone} {judged(f).what}</p>{/each}
  </section>
{/if}

<style>
  section {
    display: grid;
    gap: 6px;
    border-top: 2px solid var(--edge);
    padding-top: 10px;
  }
  .warn {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
