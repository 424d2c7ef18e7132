<script lang="ts">
  /** Survey: the parts as they were found, and the way to change them. */
  import type { JobPage } from "../../api/client";
  import { area, show } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import Revise from "../../draft/Revise.svelte";
  import Damage from "./Damage.svelte";
  import { cards } from "../../lib/cards";
  import { takenCut } from "../../lib/cut.svelte";
  import { surveyWords } from "../../lib/survey.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  // What the plan proposed is opened with the survey, once.
  // svelte-ignore state_referenced_locally
  const cut = takenCut(page.head.id);
  let changing = $state(Boolean(cut));
  const parts = $derived(page.facts.parts.filter((p) => !p.retired));
  const retired = $derived(page.facts.parts.filter((p) => p.retired));
  const found = (p: JobPage["facts"]["parts"][number]): string =>
    [
      surveyWords.surface(p.substrate),
      p.condition,
      p.bare_mm ? say.survey.bareSpotsUpTo(show("mm", p.bare_mm)) : "",
      p.dark ? say.survey.aDarkColour : "",
      ...(p.features ?? []).filter((x) => x !== "none").map(surveyWords.feature),
    ]
      .filter(Boolean)
      .join(", ");
  const total = $derived(parts.reduce((s, p) => s + p.area_m2 * p.count, 0));
</script>

{#if changing}
  <Revise jobId={page.head.id} what="survey" {cut} done={() => (changing = false)} />
{:else}
  <div class="page">
    <div class="ttl">
      <h2>{say.survey.partInAll(parts.length, area(total))}</h2>
      {#if session.mayWrite}<button class="btn small" onclick={() => (changing = true)}>{say.survey.editTheSurvey}</button>{/if}
    </div>
    <div class="scroll">
      <table class="cards" {@attach cards}>
        <thead
          ><tr
            ><th>{say.common.partLabel}</th><th>{say.common.area}</th><th>{say.common.surfaceCondition}</th><th>{say.survey.faces}</th><th
              >{say.common.hasToWithstand}</th
            ><th>{say.common.existingDamage}</th></tr
          ></thead
        >
        <tbody>
          {#each parts as p (p.id)}
            <tr
              ><td><b>{p.name}</b>{p.count > 1 ? ` × ${p.count}` : ""}</td><td
                >{area(p.area_m2 * p.count)}{#if p.shape}<br /><span class="mute">{p.shape}</span>{/if}</td
              >
              <td>{found(p)}</td>
              <td>{(p.faces ?? []).map((f) => `${f.facing} ${area(f.area_m2)}`).join(", ") || say.survey.notSplit}</td>
              <td>{(p.must_survive ?? []).map(surveyWords.exposure).join(", ") || say.common.noneGiven}</td><td
                >{p.damage || say.common.none}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    </div>
    {#if retired.length}<p class="mute">{say.survey.removedParts(retired.map((p) => p.name).join(", "))}</p>{/if}
    <Damage {page} />
    <p class="mute">{say.survey.versionOfSurveyAndSystem(page.facts.version)}</p>
  </div>
{/if}

<style>
  .page {
    padding: 16px 24px;
    display: grid;
    gap: 12px;
    align-content: start;
  }
  .ttl {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    align-items: center;
  }
  .scroll {
    overflow-x: auto;
  }
  table {
    width: 100%;
    font-size: 14.5px;
    background: var(--field);
  }
  th,
  td {
    padding: 8px 12px;
    border-top: 1px solid var(--rule);
    vertical-align: top;
    text-align: left;
  }
</style>
