<script lang="ts">
  /** The steps of a job, part by part; a check is ticked or failed, and that goes on the log. */
  import type { JobPage } from "../../api/client";
  import { stepChecked } from "../../lib/actions";
  import { session } from "../../lib/session.svelte";
  import WorkList from "../../ui/WorkList.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const way = (id: string): string => page.facts.choices?.[`way.${id}`] ?? "";
</script>

{#each page.works as g (g.part_ids.join())}
  <section aria-label={say.steps.stepsFor(g.names.join(", "))}>
    <h2>{say.steps.steps(g.names.join(", "), g.steps.length)}</h2>
    {#if g.waits_for}<p class="waits"><b>{say.steps.waitingFor}</b> {g.waits_for}</p>{/if}
    <WorkList steps={g.steps} look={session.mayWrite ? (work, held) => void stepChecked(page, g.part_ids, work, held) : undefined} />
    {#if g.alternatives.length}<details>
        <summary>{say.common.alternativeMethods}</summary>
        {#each g.alternatives as s (s.id)}<p>
            <b>{s.ask}</b>
            {#if way(s.id)}{say.steps.here} <b>{way(s.id)}</b>.
            {/if}{#each s.ways as w, i (w.name)}{i ? "; " : ""}<b>{w.name}</b>: {w.wins}{/each}.
          </p>{/each}
      </details>{/if}
  </section>
{/each}

<style>
  section {
    padding: 12px 24px 20px;
    display: grid;
    gap: 8px;
    border-top: 2px solid var(--ink);
  }
  .waits {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  details p {
    margin: 6px 0;
    font-size: 14px;
  }
  summary {
    font-weight: 640;
    min-height: 44px;
  }
</style>
