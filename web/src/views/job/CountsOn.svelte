<script lang="ts">
  /** What the adopted plan counts on beyond the shop as it is, and the way back. */
  import { api, inWords, type JobPage } from "../../api/client";
  import { plannersAnswer, whileHere } from "../../lib/asked";
  import { duration, show, when } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage; now: number; said: (text: string) => void };
  let { page, now, said }: Props = $props();
  const here = whileHere();
  const w = $derived(page.plan?.wishes);
  const words = $derived.by(() => {
    if (!w) return [];
    const out: string[] = [];
    if (w.objective === "mixes") out.push(say.common.fewestMixes);
    if (w.objective === "waiting") out.push(say.common.leastWaiting);
    if (w.start_at && w.start_at > now) out.push(say.assumes.aStartAt(when(w.start_at, now)));
    if (w.leave_at && w.leave_at > now) out.push(say.assumes.leavingAt(when(w.leave_at, now)));
    if (w.painters) out.push(w.painters === 1 ? say.assumes.onePainter : say.assumes.painters(w.painters));
    if (w.warm_degc !== null && w.warm_degc !== undefined) out.push(say.assumes.heatedTo(show("degc", w.warm_degc)));
    if (w.hardener === "fast") out.push(say.assumes.fastHardenerAssumed075);
    if (w.hardener === "slow") out.push(say.assumes.slowHardenerAssumed13);
    if (w.thinner === "fast") out.push(say.assumes.fastThinnerAssumed08);
    if (w.thinner === "slow") out.push(say.assumes.slowThinnerAssumed13);
    if (w.airflow) out.push(say.assumes.movingAirAssumed07);
    if (w.stay_s) out.push(say.assumes.workingLonger(duration(w.stay_s)));
    if (w.keyed?.length) out.push(say.assumes.sandingACoatBecauseIts);
    if (w.backwards) out.push(say.assumes.startingAsLateAsPossible);
    const held = Object.values(w.held ?? {}).filter((at) => at > now).length;
    if (held) out.push(held === 1 ? say.assumes.oneTaskMovedByHand : say.assumes.tasksMovedByHand(held));
    return out;
  });
  async function without(): Promise<void> {
    const { data, error } = await plannersAnswer(
      here,
      api.POST("/api/jobs/{job_id}/plan", {
        params: { path: { job_id: page.head.id } },
        body: {
          wishes: {
            objective: "finish",
            hardener: "sheet",
            thinner: "sheet",
            airflow: false,
            keyed: [],
            stay_s: 0,
            backwards: false,
            keep_moved: false,
          },
        },
      }),
      (told) => told.plan,
      (s) => said(say.apply.planningFor(s)),
    );
    said(data ? say.assumes.replannedWithTheShopsSettings(when(data.plan.finish_at ?? now, now)) : inWords(error));
    outbox.taken += 1;
  }
</script>

{#if words.length}
  <p class="on" aria-label={say.assumes.whatThisPlanAssumes}>
    <span><b>{say.assumes.thisPlanAssumes}</b> {words.join(", ")}.</span>
    {#if session.mayWrite}<button class="btn small" onclick={without}>{say.assumes.replanWithout}</button>{/if}
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
