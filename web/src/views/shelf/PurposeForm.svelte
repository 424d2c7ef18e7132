<script lang="ts">
  /** What the product's own sheet says it is for: what it goes on, where, and what it withstands. */
  import type { Schemas } from "../../api/client";
  import Choices from "../../draft/Choices.svelte";
  import { unit } from "../../lib/format";
  import { surveyWords } from "../../lib/survey.svelte";
  import { say } from "../../words";

  type Purpose = Schemas["Purpose"];
  /** `hot`: the highest temperature, as typed. */
  type Props = { purpose: Purpose; hot: string };
  let { purpose = $bindable(), hot = $bindable() }: Props = $props();
  const other = (list: string[] | undefined, id: string): string[] =>
    list?.includes(id) ? list.filter((x) => x !== id) : [...(list ?? []), id];
  const places = Object.entries(say.places).map(([id, name]) => ({ id, name, group: say.purpose.where }));
  function stand(id: string, word: string): void {
    const rest = Object.entries(purpose.withstands ?? {}).filter(([k]) => k !== id);
    purpose.withstands = Object.fromEntries(word ? [...rest, [id, word as "yes"]] : rest);
  }
</script>

<fieldset>
  <legend>{say.purpose.title}</legend>
  <details>
    <summary>{say.purpose.goesOn}: {purpose.goes_on?.length ?? 0}</summary>
    <Choices
      title={say.purpose.goesOn}
      words={surveyWords.list?.substrates ?? []}
      picked={purpose.goes_on ?? []}
      toggle={(id) => (purpose.goes_on = other(purpose.goes_on, id))}
    />
  </details>
  <Choices
    title={say.purpose.usedOn}
    words={places}
    picked={purpose.used_on ?? []}
    toggle={(id) => (purpose.used_on = other(purpose.used_on, id))}
  />
  <div class="stands" role="group" aria-label={say.purpose.withstands}>
    {#each surveyWords.list?.exposures.filter((x) => !["heat", "immersion", "stretch"].includes(x.group) && !["immersion", "stretch"].includes(x.id)) ?? [] as x (x.id)}
      <label
        >{x.name}
        <select value={purpose.withstands?.[x.id] ?? ""} onchange={(e) => stand(x.id, e.currentTarget.value)}>
          <option value="">{say.purpose.notSaid}</option>
          <option value="yes">{say.ask.yes}</option>
          <option value="for_a_time">{say.purpose.forATime}</option>
          <option value="no">{say.ask.no}</option>
        </select></label
      >
    {/each}
    <label>{say.purpose.hottest(unit("degc"))} <input inputmode="decimal" bind:value={hot} placeholder={say.purpose.notSaid} /></label>
  </div>
</fieldset>

<style>
  fieldset {
    grid-column: 1 / -1;
    display: grid;
    gap: 12px;
    border: 1px solid var(--edge);
    padding: 10px;
    min-width: 0;
  }
  .stands {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(160px, 1fr));
    gap: 10px;
  }
  summary {
    min-height: 44px;
    font-weight: 640;
  }
</style>
