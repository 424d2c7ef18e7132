<script lang="ts">
  /** What the plan cannot meet, and the cheapest ways out of it. */
  import { api, inWords, type JobPage, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { plannersAnswer, whileHere } from "../../lib/asked";
  import { duration, when } from "../../lib/format";
  import { openCut } from "../../lib/cut.svelte";
  import { keyed } from "../../lib/keyed";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import Stop from "../../ui/Stop.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage; now: number; said: (text: string) => void };
  let { page, now, said }: Props = $props();
  const here = whileHere();
  const found = new Answer<Schemas["WayOut"][]>();
  const ways = $derived(found.data);
  let refusal = $state("");
  const conflicts = $derived(page.plan?.conflicts ?? []);
  const jobId = $derived(page.head.id);
  const key = $derived(conflicts.map((c) => c.why).join());
  $effect(() => {
    found.forget(); // a way out of what stood in the way before is none out of this
    const gone = new AbortController();
    if (key)
      void found.ask(() =>
        plannersAnswer(gone.signal, api.POST("/api/jobs/{job_id}/ways", { params: { path: { job_id: jobId } } }), (told) => told.ways),
      );
    return () => gone.abort();
  });
  async function take(w: Schemas["WayOut"]): Promise<void> {
    if (w.cut_part_id) return openCut({ jobId, partId: w.cut_part_id, into: w.cut_into });
    const { wishes: x } = w;
    const wishes = {
      objective: x.objective,
      start_at: x.start_at,
      leave_at: x.leave_at,
      painters: x.painters,
      warm_degc: x.warm_degc,
      hardener: x.hardener,
      thinner: x.thinner,
      airflow: x.airflow,
      keyed: x.keyed,
      stay_s: x.stay_s,
      backwards: x.backwards,
      keep_moved: Object.keys(x.held ?? {}).length > 0,
    };
    const { data, error } = await plannersAnswer(
      here,
      api.POST("/api/jobs/{job_id}/plan", { params: { path: { job_id: page.head.id } }, body: { wishes } }),
      (told) => told.plan,
      (s) => said(say.apply.planningFor(s)),
    );
    if (!data) return void (refusal = inWords(error));
    said(say.options.planUpdated(w.text));
    outbox.taken += 1;
  }
</script>

{#if conflicts.length}
  <Stop
    what={say.common.someDeadlinesCannotBeMet}
    why={`${conflicts.map((c) => c.why).join("; ")}.`}
    instead={ways?.length ? say.options.chooseAnOptionBelowEverything : say.options.startWithTheEarliestDeadline}
  />
  {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
  {#if found.waiting}<p role="status">{say.options.lookingForOptions}</p>{/if}
  {#if found.problem}<p class="mute">{say.options.optionsNotFound(found.problem)}</p>{/if}
  {#if ways?.length}
    <ol aria-label={say.options.options}>
      {#each keyed(ways, (w) => w.text) as { key, row: w } (key)}
        <li>
          <span
            ><b>{w.text}.</b>
            {say.options.everythingDone(when(w.finish_at, now), w.late_s ? say.options.stillLate(duration(w.late_s)) : "")}</span
          >
          {#if session.mayWrite}<button class="btn small" onclick={() => take(w)}>{say.options.useThisOption}</button>{/if}
        </li>
      {/each}
    </ol>
  {/if}
{/if}

<style>
  ol {
    list-style: none;
    display: grid;
    gap: 4px;
  }
  li {
    display: flex;
    gap: 12px;
    justify-content: space-between;
    align-items: center;
    border-bottom: 1px solid var(--rule);
    padding: 4px 0;
  }
  .btn {
    white-space: nowrap;
  }
</style>
