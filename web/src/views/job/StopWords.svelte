<script lang="ts">
  /** The stop row in words: when one may stop, when not and which part fails first. */
  import type { JobPage } from "../../api/client";
  import { clockTime, when } from "../../lib/format";
  import { say } from "../../words";

  type Props = { page: JobPage; now: number };
  let { page, now }: Props = $props();
  /** Where the answer turns: the first moment of each run of the same answer. */
  const turns = $derived(
    page.stops.filter((s, i) => i === 0 || s.safe !== page.stops[i - 1]!.safe || s.why !== page.stops[i - 1]!.why).slice(0, 6),
  );
</script>

{#if turns.length}
  <ol class="stops" aria-label={say.safeStops.whereItIsSafeTo}>
    {#each turns as s, i (i)}
      <li class:safe={s.safe}>
        <p>
          <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true"
            ><rect
              x="1"
              y="1"
              width="16"
              height="16"
              fill={s.safe ? "var(--ink)" : "none"}
              stroke="var(--ink)"
              stroke-width="1.8"
            />{#if s.safe}<path d="M4.5 9l3.4 4 6-8" fill="none" stroke="var(--on-ink)" stroke-width="2.2" />{:else}<path
                d="M3 15L15 3"
                stroke="var(--ink)"
                stroke-width="1.8"
              />{/if}</svg
          >
          <b class="num">{s.at <= now ? say.common.now : clockTime(s.at)}</b>
        </p>
        <p>
          <b>{s.safe ? say.safeStops.safeToStop : say.safeStops.doNotStopHere}</b>
          {s.safe ? say.safeStops.until(when(s.back_at, now)) : `${s.why}.`}
        </p>
      </li>
    {/each}
  </ol>
{/if}

<style>
  .stops {
    list-style: none;
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(120px, 1fr));
    border-top: 1px solid var(--edge);
  }
  li {
    padding: 8px 10px;
    border-left: 1px solid var(--edge);
    font-size: 14px;
    line-height: 1.25;
  }
  li.safe {
    background: var(--lift);
    border-top: 6px solid var(--ink);
  }
  p {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  p + p {
    display: block;
    margin-top: 4px;
  }
  .num {
    font-size: 24px;
  }
</style>
