<script lang="ts">
  import { api, inWords, type Schemas } from "../../api/client";
  import { serverClock } from "../../lib/clock.svelte";
  import { when } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import StateTag from "../../ui/StateTag.svelte";

  let jobs = $state.raw<Schemas["JobHead"][] | null>(null);
  let refusal = $state("");
  const WORDS: Record<string, string> = { over_age: "abrade first" };

  $effect(() => {
    void api.GET("/api/jobs").then(({ data, error }) => {
      jobs = data ?? [];
      refusal = data ? "" : inWords(error);
    }).catch((e: unknown) => (refusal = inWords(e)));
  });
</script>

<div class="page">
  <div class="ttl"><h1>Jobs</h1>{#if session.mayWrite}<a class="btn go" href="#/jobs/new">New job</a>{/if}</div>
  {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
  {#if jobs?.length === 0}<p>No job yet. Start one: what it is, its parts, and the layers that go on.</p>{/if}
  <ul>
    {#each jobs ?? [] as j (j.id)}
      <li>
        <a href={`#/jobs/${j.id}/run`}><b>{j.title}</b><span>{j.asset}, {j.place}, {j.parts} {j.parts === 1 ? "part" : "parts"}</span>
          <StateTag state={j.urgent_state ?? null} word={j.urgent_state ? (WORDS[j.urgent_state] ?? j.urgent_state) : "nothing on yet"} />
          <span>{j.live ? (j.latest_start_at ? `start by ${when(j.latest_start_at, serverClock.now)}` : "") : "done"}</span></a>
      </li>
    {/each}
  </ul>
</div>

<style>
  .page { padding: 16px 24px; display: grid; gap: 14px; align-content: start; }
  .ttl { display: flex; justify-content: space-between; align-items: center; }
  h1 { font-size: 34px; }
  ul { list-style: none; }
  li a { display: grid; grid-template-columns: 1.2fr 2fr 180px 200px; gap: 14px; align-items: center; min-height: 60px; padding: 6px 12px; border-top: 2px solid var(--edge); background: var(--field); }
  li b { font-stretch: 72%; font-weight: 780; font-size: 21px; }
  @media (max-width: 700px) { li a { grid-template-columns: 1fr; } .page { padding: 12px 16px; } }
</style>
