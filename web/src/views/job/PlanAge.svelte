<script lang="ts">
  /** In a full shop the plan follows the log by seconds: of when the one shown is, and how long a newer one takes. */
  import type { JobPage } from "../../api/client";
  import { when } from "../../lib/format";
  import { say } from "../../words";

  type Props = { page: JobPage; now: number };
  let { page, now }: Props = $props();
  const SILENT_S = 90;
  const seconds = $derived(page.planning_since ? Math.max(0, Math.round(now - page.planning_since)) : null);
</script>

{#if seconds !== null}
  <span role="status" aria-live="off" class:old={seconds > SILENT_S}>
    {#if page.plan}{say.apply.planIsOf(when(page.plan.made_at, now))}{/if}
    {seconds > SILENT_S ? say.apply.thePlannerDoesNotAnswer : say.apply.planningFor(seconds)}
  </span>
{/if}

<style>
  span {
    font-size: 14px;
    color: var(--ink2);
  }
  .old {
    color: var(--ink);
    font-weight: 700;
  }
</style>
