<script lang="ts">
  import { push } from "svelte-spa-router";
  import { Answer } from "../../lib/answer.svelte";
  import { api, inWords, type Schemas } from "../../api/client";
  import { serverClock } from "../../lib/clock.svelte";
  import { when } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import Example from "../../ui/Example.svelte";
  import Pages from "../../ui/Pages.svelte";
  import StateTag from "../../ui/StateTag.svelte";
  import { stateWord } from "../../lib/states";
  import { say } from "../../words";

  const list = new Answer<Schemas["JobList"]>();
  const jobs = $derived(list.data?.jobs ?? null);
  let pageNo = $state(1);
  let which = $state<"all" | "live" | "service" | "done" | "archived">("all");
  let order = $state<"newest" | "pressing" | "customer">("newest");
  /** Why a file was not taken in. */
  let refusal = $state("");
  let q = $state("");
  let files = $state<FileList>();
  let busy = $state(false);
  const now = $derived(serverClock.now);

  $effect(() => {
    const query = { q, page: pageNo, state: which, order };
    void outbox.taken; // what was told a moment ago is in the list once the server has it
    const wait = setTimeout(() => void list.ask(() => api.GET("/api/jobs", { params: { query } })), q ? 200 : 0);
    return () => clearTimeout(wait);
  });
  async function takeIn(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const file = files?.[0];
    if (!file) return void (refusal = say.jobs.chooseAJobFileJson);
    busy = true;
    const body = new FormData();
    body.append("file", file);
    const { data, error } = await api.POST("/api/jobs/import", { body: body as never, bodySerializer: (b) => b as unknown as FormData });
    busy = false;
    if (data) return void push(`/jobs/${data.id}/run`);
    refusal = inWords(error);
  }
  function said(j: Schemas["JobHead"]): string {
    if (j.ended) return j.ended;
    if (j.live && j.latest_start_at)
      return `${j.latest_start_at > now ? say.jobs.startBy : say.jobs.lateSince} ${when(j.latest_start_at, now)}`;
    if (j.live) return say.common.inProgress;
    if (j.in_service)
      return j.next_due_at
        ? j.next_due_at <= now
          ? say.jobs.inServiceACheckIs
          : say.jobs.inServiceDue(when(j.next_due_at, now))
        : say.jobs.inService;
    return say.jobs.done;
  }
</script>

<div class="page">
  <div class="ttl">
    <h1>{say.common.jobs}</h1>
    <label class="search"
      ><span class="sr">{say.jobs.search}</span><input
        type="search"
        bind:value={q}
        oninput={() => (pageNo = 1)}
        placeholder={say.jobs.numberCustomerPaintCodeVehicle}
      /></label
    >
    {#if session.mayWrite}<a class="btn go" href="#/jobs/new">{say.common.newJob}</a>{/if}
  </div>
  <div class="filter">
    <label
      >{say.jobs.show}
      <select bind:value={which} onchange={() => (pageNo = 1)}
        ><option value="all">{say.jobs.allOfThem}</option><option value="live">{say.common.inProgress}</option><option value="service"
          >{say.jobs.inService}</option
        ><option value="done">{say.jobs.done}</option><option value="archived">{say.jobs.putAway}</option></select
      ></label
    >
    <label
      >{say.jobs.orderBy}
      <select bind:value={order} onchange={() => (pageNo = 1)}
        ><option value="newest">{say.jobs.newestFirst}</option><option value="pressing">{say.jobs.mostPressingFirst}</option><option
          value="customer">{say.jobs.byCustomer}</option
        ></select
      ></label
    >
  </div>
  {#each [refusal, list.problem].filter(Boolean) as text, i (i)}<p class="refusal" role="alert"><b>{text}</b></p>{/each}
  {#if jobs?.length === 0}<p>
      {q || which !== "all" ? say.jobs.noJobMatches(q) : say.jobs.noJobsYetCreateOne}
    </p>
    {#if !q && which === "all" && session.mayWrite}<p class="filter">
        <a class="btn go" href="#/jobs/new">{say.first.toTheFirstJob}</a>
        <Example />
      </p>{/if}{/if}
  <ul>
    {#each jobs ?? [] as j (j.id)}
      <li>
        <a href={`#/jobs/${j.id}/${j.in_service && !j.live ? "service" : "run"}`}
          ><span class="what"
            ><b>{j.title}</b>{#if j.example}<span class="example">{say.first.isExample}</span>{/if}<span
              >{[j.asset, j.mark, j.paint_code].filter(Boolean).join(", ")}</span
            ></span
          >
          <span>{[j.customer, j.place, say.common.countedParts(j.parts)].filter(Boolean).join(", ")}</span>
          <span
            >{#if j.last_coat}<b class="last">{j.last_coat.label}</b><br /><span class="mute"
                >{say.jobs.lastCoat(when(j.last_coat.at, now))}</span
              >{:else}<span class="mute">{j.ended ? say.jobs.coatingRemoved : say.jobs.noCoatOnYet}</span>{/if}</span
          >
          <span
            ><StateTag
              state={j.urgent_state ?? null}
              word={j.urgent_state ? stateWord(j.urgent_state) : j.ended ? say.jobs.removed : say.common.notCoatedYet}
            /><br />{said(j)}</span
          ></a
        >
        <div class="out">
          {#if session.mayWrite}<a class="line" href={`#/jobs/new?from=${j.id}`}>{say.jobs.duplicate}</a>
            {#if !j.live && j.last_coat}<a class="line" href={`#/jobs/new?repair=${j.id}`}>{say.newJob.repair}</a>{/if}{/if}
          <a class="line" href={`/api/jobs/${j.id}/export`} download>{say.jobs.exportJson}</a>
          <a class="line" href={`/api/jobs/${j.id}/entries.csv`} download>{say.jobs.logCsv}</a>
        </div>
      </li>
    {/each}
  </ul>
  {#if list.data}<Pages
      of={list.data.of}
      page={list.data.page}
      pages={list.data.pages}
      what={say.jobs.counted}
      turn={(n) => (pageNo = n)}
    />{/if}
  {#if session.mayWrite}
    <form onsubmit={takeIn}>
      <label>{say.jobs.importAJobFile} <input type="file" accept=".json,application/json" bind:files /></label><button
        class="btn small"
        disabled={busy}>{say.common.importWord}</button
      >
    </form>
  {/if}
</div>

<style>
  .filter {
    display: flex;
    gap: 18px;
    flex-wrap: wrap;
  }
  .filter label {
    font-weight: 640;
    font-size: 14px;
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .page {
    padding: 16px 24px;
    display: grid;
    gap: 14px;
    align-content: start;
  }
  .ttl {
    display: flex;
    gap: 20px;
    align-items: center;
  }
  .search {
    flex: 1;
    max-width: 520px;
  }
  .ttl .go {
    margin-left: auto;
  }
  h1 {
    font-size: 34px;
  }
  ul {
    list-style: none;
  }
  li {
    border-top: 2px solid var(--edge);
    background: var(--field);
    display: grid;
    grid-template-columns: 1fr auto;
  }
  li > a {
    display: grid;
    grid-template-columns: 1.4fr 1.2fr 1.3fr 1fr;
    gap: 14px;
    align-items: center;
    min-height: 64px;
    padding: 8px 12px;
    font-size: 14.5px;
  }
  .what b {
    display: block;
    font-stretch: 72%;
    font-weight: 780;
    font-size: 21px;
  }
  .last {
    font-weight: 640;
  }
  .out {
    display: flex;
    gap: 14px;
    align-items: center;
    padding: 0 14px;
    font-size: 14px;
  }
  .out a {
    min-height: 44px;
    display: inline-flex;
    align-items: center;
  }
  form {
    display: flex;
    gap: 10px;
    align-items: end;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 900px) {
    li,
    li > a {
      grid-template-columns: 1fr;
    }
    .page {
      padding: 12px 16px;
    }
    .ttl {
      flex-wrap: wrap;
    }
    .search {
      flex: 1 0 100%;
      order: 1;
    }
    .out {
      padding-bottom: 6px;
    }
  }
</style>
