<script lang="ts">
  /** A job's pages share one poll; the step in the address says which is shown. */
  import { JobPoll } from "../../lib/job.svelte";
  import { played } from "../../lib/offline";
  import { outbox } from "../../lib/outbox.svelte";
  import JobHead from "../../ui/JobHead.svelte";
  import Entries from "./Entries.svelte";
  import CureView from "./CureView.svelte";
  import MixView from "./MixView.svelte";
  import PhoneRun from "./PhoneRun.svelte";
  import RunView from "./RunView.svelte";
  import StackView from "./StackView.svelte";

  type Props = { params?: { id?: string; step?: string } };
  let { params = {} }: Props = $props();
  const id = $derived(params.id ?? "");
  let poll = $state.raw<JobPoll | null>(null);
  let innerWidth = $state(1280);
  const phone = $derived(innerWidth < 700);

  $effect(() => {
    const mine = new JobPoll(id);
    poll = mine;
    return () => mine.stop();
  });
  $effect(() => {
    if (outbox.taken) void poll?.ask();
  });
  const step = $derived(["stack", "mix", "cure"].includes(params.step ?? "") ? (params.step as "stack" | "mix" | "cure") : "run");
</script>

<svelte:window bind:innerWidth />
{#if poll?.gone}
  <section class="empty"><h1>No such job in this shop</h1><p><a class="line" href="#/jobs">All jobs</a></p></section>
{:else if poll?.page}
  {@const page = played(poll.page, outbox.sent, outbox.pending)}
  {#if poll.problem}<p class="problem" role="status">{poll.problem}</p>{/if}
  {#if page.state.parts.length === 0}
    <section class="empty"><h1>{page.head.title}</h1><p>The entry that said what this job is was struck. Strike that strike to have it back.</p></section>
    <Entries {page} partId="" />
  {:else if step === "run" && phone}
    <PhoneRun {page} />
  {:else}
    <JobHead {page} {step} />
    {#if step === "run"}<RunView {page} />
    {:else if step === "mix"}<MixView {page} />
    {:else if step === "cure"}<CureView {page} />
    {:else}<StackView {page} />{/if}
  {/if}
{:else}
  <section class="empty"><h1>Job</h1><p>{poll?.problem || "Reading the log."}</p></section>
{/if}

<style>
  .empty { padding: 40px 24px; display: grid; gap: 12px; }
  .problem { padding: 6px 24px; background: var(--lift); border-top: 2px solid var(--ink); }
</style>
