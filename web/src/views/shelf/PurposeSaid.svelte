<script lang="ts">
  /** What a material is for, as its sheet says it; what is not in it is not said. */
  import type { Sheet } from "../../api/client";
  import { show } from "../../lib/format";
  import { surveyWords } from "../../lib/survey.svelte";
  import { say } from "../../words";

  let { sheet }: { sheet: Sheet } = $props();
  const p = $derived(sheet.purpose);
  const family = (x: string): string => {
    const [name = "", tacky] = x.split(":");
    return surveyWords.family(name) + (tacky ? say.purpose.tacky : "");
  };
  const stands = (word: string): string =>
    Object.entries(p?.withstands ?? {})
      .filter(([, v]) => v === word)
      .map(([k]) => surveyWords.exposure(k))
      .join(", ");
</script>

{#if p}
  <dt>{say.purpose.role}</dt>
  <dd>{say.roles[p.role as keyof typeof say.roles] ?? p.role}</dd>
  {#if p.goes_on?.length}<dt>{say.purpose.goesOn}</dt>
    <dd>{p.goes_on.map(surveyWords.surface).join("; ")}</dd>{/if}
  {#if p.over?.length}<dt>{say.purpose.over}</dt>
    <dd>{p.over.map(family).join(", ")}</dd>{/if}
  {#if p.used_on?.length}<dt>{say.purpose.usedOn}</dt>
    <dd>{p.used_on.map((x) => say.places[x as keyof typeof say.places] ?? x).join(", ")}</dd>{/if}
  {#if p.colours?.length}<dt>{say.purpose.colours}</dt>
    <dd>{p.colours.join(", ")}</dd>{/if}
  {#each ["yes", "for_a_time", "no"] as const as word (word)}
    {#if stands(word)}<dt>{say.purpose[word]}</dt>
      <dd>{stands(word)}</dd>{/if}
  {/each}
  {#if p.temp_max_degc}<dt>{say.purpose.heat}</dt>
    <dd>{show("degc", p.temp_max_degc, 0)}{p.temp_short_degc ? say.purpose.short(show("degc", p.temp_short_degc, 0)) : ""}</dd>{/if}
{:else}
  <dt>{say.purpose.role}</dt>
  <dd>{say.purpose.nothing}</dd>
{/if}
