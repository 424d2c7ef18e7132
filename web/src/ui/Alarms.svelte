<script lang="ts">
  /** What rings now, the most pressing first, until it is done, lost or heard. */
  import { serverClock } from "../lib/clock.svelte";
  import { notice } from "../lib/notice.svelte";
  import { touched } from "../lib/sound";
  import { watch } from "../lib/watch.svelte";
  import { say } from "../words";

  const first = $derived(watch.on.toSorted((a, b) => Number(b.pressing) - Number(a.pressing) || a.at - b.at)[0]);
  $effect(() => {
    void serverClock.now;
    watch.sound((alarm) => void notice.show(alarm));
  });
</script>

<svelte:window onpointerdown={touched} onkeydown={touched} />
<div class="ringing" aria-live="assertive">
  {#if first}
    <p class:pressing={first.pressing}>
      <a href={`#/jobs/${first.jobId}/run`}><b>{first.what}</b> {first.how}</a>
      {#if watch.on.length > 1}<span>{say.alarm.more(watch.on.length - 1)}</span>{/if}
      <button class="btn" onclick={() => watch.hear(first.key)}>{say.alarm.heard}</button>
    </p>
  {/if}
</div>

<style>
  p {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 4px 24px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
    border-left: 10px solid var(--edge);
  }
  .pressing {
    border-left-color: var(--ink);
  }
  a {
    flex: 1;
    padding: 8px 0;
  }
  .btn {
    min-height: 56px;
    flex: none;
  }
  @media (max-width: 700px) {
    p {
      padding: 4px 12px;
      font-size: 15px;
    }
  }
</style>
