<script lang="ts">
  /** How long a finish lasts as a curve, and whether two last differently or it may be chance. */
  import { api, type Schemas } from "../../api/client";
  import Lasting from "../../figures/Lasting.svelte";
  import { Answer } from "../../lib/answer.svelte";
  import { percent, spaced } from "../../lib/format";
  import { surveyWords } from "../../lib/survey.svelte";
  import { say } from "../../words";

  type Props = { groups: readonly Schemas["Group"][] };
  let { groups }: Props = $props();
  // svelte-ignore state_referenced_locally
  let one = $state(groups.toSorted((a, b) => b.failed - a.failed || b.counted - a.counted)[0]?.key ?? "");
  let other = $state("");
  const told = new Answer<Schemas["Comparison"]>();
  $effect(() => {
    const query = { one, other: other === one ? "" : other };
    void told.ask(() => api.GET("/api/record/compare", { params: { query } }));
  });
  const name = (g: Schemas["Group"]): string =>
    g.surface ? say.durability.onSurface(g.material, surveyWords.surface(g.surface)) : g.material;
  const longer = $derived(told.data?.groups.find((g) => g.key === told.data?.lasts_longer));
  /** A chance is told as one in so many: nobody weighs 0.0062. */
  const chance = (p: number): string =>
    p < 0.001 ? say.durability.underOneInAThousand : p < 0.1 ? say.durability.oneIn(spaced(Math.round(1 / p))) : percent(p);
</script>

<h2>{say.durability.howLong}</h2>
<div class="row">
  <label
    >{say.durability.finish}
    <select bind:value={one}
      >{#each groups as g (g.key)}<option value={g.key}>{name(g)}</option>{/each}</select
    ></label
  >
  <label
    >{say.durability.against}
    <select bind:value={other}
      ><option value="">{say.durability.nothing}</option>{#each groups.filter((g) => g.key !== one) as g (g.key)}<option value={g.key}
          >{name(g)}</option
        >{/each}</select
    ></label
  >
</div>
{#if told.problem}<p role="alert"><b>{told.problem}</b></p>{/if}
{#if told.data?.groups.length}
  <Lasting groups={told.data.groups} names={told.data.groups.map(name)} />
  {#if told.data.groups.every((g) => g.failed < 5)}<p class="mute">{say.durability.saysLittle}</p>{/if}
  {#if told.data.groups.length > 1}<p role="status">
      {told.data.few
        ? say.durability.tooFewToCompare
        : longer
          ? say.durability.lastsLonger(name(longer), chance(told.data.chance ?? 1))
          : say.durability.noDifference(chance(told.data.chance ?? 1))}
    </p>{/if}
{/if}

<style>
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 10px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
    flex: 0 1 340px;
  }
</style>
