<script lang="ts">
  /** What the adopted plan counts on beyond the shop as it is, and the way back. */
  import { api, inWords, type JobPage } from "../../api/client";
  import { duration, show, when } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";

  type Props = { page: JobPage; now: number; said: (text: string) => void };
  let { page, now, said }: Props = $props();
  const w = $derived(page.plan?.wishes);
  const words = $derived.by(() => {
    if (!w) return [];
    const out: string[] = [];
    if (w.objective === "mixes") out.push("fewest mixes");
    if (w.objective === "waiting") out.push("least standing about");
    if (w.start_at && w.start_at > now) out.push(`a start at ${when(w.start_at, now)}`);
    if (w.leave_at && w.leave_at > now) out.push(`leaving at ${when(w.leave_at, now)}`);
    if (w.painters) out.push(w.painters === 1 ? "one painter" : `${w.painters} painters`);
    if (w.warm_degc !== null && w.warm_degc !== undefined) out.push(`air warmed to ${show("degc", w.warm_degc)}`);
    if (w.hardener === "fast") out.push("the faster hardener (assumed ×0.75)");
    if (w.hardener === "slow") out.push("the slower hardener (assumed ×1.3)");
    if (w.stay_s) out.push(`staying ${duration(w.stay_s)} longer`);
    if (w.keyed?.length) out.push("a coat abraded and wiped instead of its window");
    if (w.backwards) out.push("beginning as late as the deadline allows");
    const held = Object.values(w.held ?? {}).filter((at) => at > now).length;
    if (held) out.push(held === 1 ? "one task put elsewhere" : `${held} tasks put elsewhere`);
    return out;
  });
  async function without(): Promise<void> {
    const { data, error } = await api.POST("/api/jobs/{job_id}/plan", {
      params: { path: { job_id: page.head.id } },
      body: { wishes: { objective: "finish", hardener: "sheet", keyed: [], stay_s: 0, backwards: false, keep_moved: false } },
    });
    said(data ? `Planned with the shop as it is: done ${when(data.plan.finish_at ?? now, now)}.` : inWords(error));
    outbox.taken += 1;
  }
</script>

{#if words.length}
  <p class="on" aria-label="What this plan counts on">
    <span><b>This plan counts on</b> {words.join(", ")}.</span>
    {#if session.mayWrite}<button class="btn small" onclick={without}>Plan without</button>{/if}
  </p>
{/if}

<style>
  .on {
    display: flex;
    gap: 12px;
    align-items: center;
    justify-content: space-between;
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .btn {
    white-space: nowrap;
  }
</style>
