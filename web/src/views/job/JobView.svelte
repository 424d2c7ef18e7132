<script lang="ts">
  /** A job's pages share one poll; the step in the address says which is shown. */
  import { push } from "svelte-spa-router";
  import { JobPoll } from "../../lib/job.svelte";
  import { going } from "../../lib/actions";
  import { awake } from "../../lib/awake.svelte";
  import { watch } from "../../lib/watch.svelte";
  import { played } from "../../lib/offline";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { STEPS, stepOf } from "../../lib/tabs";
  import JobHead from "../../ui/JobHead.svelte";
  import Dossier from "./Dossier.svelte";
  import Entries from "./Entries.svelte";
  import CupLabel from "./CupLabel.svelte";
  import Handover from "./Handover.svelte";
  import CureView from "./CureView.svelte";
  import MixView from "./MixView.svelte";
  import PhoneRun from "./PhoneRun.svelte";
  import RunView from "./RunView.svelte";
  import QuantityView from "./QuantityView.svelte";
  import ServiceView from "./ServiceView.svelte";
  import StackView from "./StackView.svelte";
  import TimerView from "./TimerView.svelte";
  import SurveyView from "./SurveyView.svelte";
  import { say } from "../../words";

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
  const shown = $derived(poll?.page ? played(poll.page, outbox.sent, outbox.pending) : null);
  $effect(() => {
    watch.page = shown;
    return () => (watch.page = null);
  });
  $effect(() => {
    awake.want(step === "run" && shown !== null && going(shown).length > 0);
    return () => awake.want(false);
  });
  const step = $derived(stepOf(params.step));

  /** 1 to 7 go to the steps of work, while nothing is being typed. */
  function key(event: KeyboardEvent): void {
    const at = event.target as HTMLElement;
    if (!session.who?.preferences.letter_keys || event.ctrlKey || event.altKey || event.metaKey || at.closest("input, select, textarea"))
      return;
    const to = STEPS[Number(event.key) - 1];
    if (to) void push(`/jobs/${id}/${to}`);
  }
</script>

<svelte:window bind:innerWidth onkeydown={key} />
{#if poll?.gone}
  <section class="empty">
    <h1>{say.job.jobNotFound}</h1>
    <p><a class="line" href="#/jobs">{say.job.allJobs}</a></p>
  </section>
{:else if shown}
  {@const page = shown}
  {#if poll?.problem}<p class="problem" role="status">{poll.problem}</p>{/if}
  {#if page.state.parts.length === 0}
    <section class="empty">
      <h1>{page.head.title}</h1>
      <p>{say.job.theEntryThatDefinesThis}</p>
    </section>
    <Entries {page} partId="" />
  {:else if params.step === "timer"}
    <TimerView {page} />
  {:else if params.step === "handover"}
    <Handover {page} />
  {:else if params.step === "label"}
    <CupLabel {page} />
  {:else if step === "run" && phone && params.step !== "dossier"}
    <PhoneRun {page} />
  {:else}
    <JobHead {page} step={params.step === "dossier" ? null : step} />
    {#if params.step === "dossier"}<Dossier {page} />
    {:else if step === "run"}<RunView {page} />
    {:else if step === "mix"}<MixView {page} />
    {:else if step === "cure"}<CureView {page} />
    {:else if step === "survey"}<SurveyView {page} />
    {:else if step === "quantity"}<QuantityView {page} />
    {:else if step === "service"}<ServiceView {page} />
    {:else}<StackView {page} />{/if}
  {/if}
{:else}
  <section class="empty">
    <h1>{say.job.job}</h1>
    <p>{poll?.problem || say.job.loadingTheLog}</p>
  </section>
{/if}

<style>
  .empty {
    padding: 40px 24px;
    display: grid;
    gap: 12px;
  }
  .problem {
    padding: 6px 24px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
  }
</style>
