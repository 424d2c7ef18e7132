<script lang="ts">
  /** A new shop's first page: units, three questions, and on to the first job.  What is left open stays open. */
  import { push } from "svelte-spa-router";
  import { api, inWords } from "../../api/client";
  import { session } from "../../lib/session.svelte";
  import Example from "../../ui/Example.svelte";
  import { say } from "../../words";

  type Kind = "road" | "vessel" | "aircraft";
  const KINDS: [Kind, string][] = [
    ["road", say.first.road],
    ["vessel", say.first.boats],
    ["aircraft", say.first.aircraft],
  ];
  const UNITS: ["metric" | "us", string][] = [
    ["metric", say.shop.metricMCMlM],
    ["us", say.shop.usMilFFlOz],
  ];
  const SPRAYS: ["guns" | "cans", string][] = [
    ["guns", say.first.guns],
    ["cans", say.first.cans],
  ];
  const AIR: [boolean, string][] = [
    [true, say.ask.yes],
    [false, say.ask.no],
  ];
  let units = $state<"metric" | "us">(/-US$/.test(navigator.language) ? "us" : "metric");
  let works = $state<Kind[]>([...((session.who?.works_on ?? []) as Kind[])]);
  let sprays = $state<"guns" | "cans" | null>(null);
  let airFed = $state<boolean | null>(null);
  let refusal = $state("");
  let busy = $state(false);

  function tick(kind: Kind): void {
    works = works.includes(kind) ? works.filter((k) => k !== kind) : [...works, kind];
  }
  async function save(to: string): Promise<void> {
    busy = true;
    const { error } = await api.PUT("/api/shop/first", { body: { units, works_on: works, sprays, air_fed: airFed } });
    busy = false;
    refusal = error ? inWords(error) : "";
    if (error) return;
    await session.look();
    await push(to);
  }
</script>

{#snippet chips(title: string, words: [unknown, string][], on: (id: unknown) => boolean, tap: (id: unknown) => void)}
  <div class="ask" role="group" aria-label={title}>
    <b>{title}</b>
    <div class="row">
      {#each words as [id, word] (word)}<button type="button" class="btn" class:go={on(id)} aria-pressed={on(id)} onclick={() => tap(id)}
          >{word}</button
        >{/each}
    </div>
  </div>
{/snippet}

<div class="page">
  <h1>{session.who?.shop}</h1>
  <p>{say.first.about}</p>
  {@render chips(
    say.first.works,
    KINDS,
    (k) => works.includes(k as Kind),
    (k) => tick(k as Kind),
  )}
  {@render chips(
    say.first.sprays,
    SPRAYS,
    (s) => sprays === s,
    (s) => (sprays = sprays === s ? null : (s as "guns")),
  )}
  {@render chips(
    say.first.air,
    AIR,
    (a) => airFed === a,
    (a) => (airFed = airFed === a ? null : (a as boolean)),
  )}
  <p class="mute">{say.first.airWhy}</p>
  {@render chips(
    say.shop.units,
    UNITS,
    (u) => units === u,
    (u) => (units = u as "us"),
  )}
  {#if refusal}<p role="alert"><b>{refusal}</b></p>{/if}
  <div class="row">
    <button type="button" class="btn go next" disabled={busy} onclick={() => save("/jobs/new")}>{say.first.toTheFirstJob}</button>
    <Example before={() => save("/first")} />
  </div>
  <p><button type="button" class="line" onclick={() => save("/shop")}>{say.first.rest}</button></p>
</div>

<style>
  .page {
    padding: 24px;
    display: grid;
    gap: 20px;
    align-content: start;
    max-width: 760px;
  }
  h1 {
    font-size: 42px;
  }
  .ask {
    display: grid;
    gap: 8px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
  }
  .btn {
    min-height: 56px;
  }
  .next {
    font-size: 20px;
    padding: 0 28px;
  }
  .line {
    font: inherit;
    color: inherit;
    background: none;
    border: 0;
    padding: 0;
    min-height: 44px;
    text-decoration: underline;
    text-underline-offset: 3px;
    cursor: pointer;
  }
</style>
