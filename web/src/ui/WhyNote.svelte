<script lang="ts">
  /** Where a number comes from, one tap away. */
  import type { Why } from "../api/client";
  import { formulas } from "../lib/formulas.svelte";
  import { say } from "../words";

  type Props = { why: Why; label?: string };
  let { why, label = say.source.source }: Props = $props();
  const formula = $derived(why.formula_id ? formulas.byId(why.formula_id) : undefined);
  const kinds: Record<string, string> = {
    sheet: say.common.fromTheDataSheet,
    standard: say.source.fromAStandard,
    practice: say.source.commonPractice,
    computed: say.source.calculated,
    measured: say.source.measured,
    simulated: say.source.simulated,
    assumed: say.source.assumed,
  };
  let open = $state(false);
  const shown = (v: unknown): string => (typeof v === "number" ? String(Math.round(v * 1000) / 1000) : String(v));
</script>

<!-- svelte-ignore a11y_no_noninteractive_element_interactions (Escape closes what was opened) -->
<details bind:open onkeydown={(e) => e.key === "Escape" && (open = false)}>
  <summary>{label}</summary>
  <div>
    <b>{kinds[why.kind] ?? why.kind}</b>{why.ref ? `: ${why.ref}` : ""}
    {#if formula}<p>{formula.text}</p>
      <p class="mute">{formula.source}</p>{/if}
    {#if Object.keys(why.inputs ?? {}).length}
      <p class="mute">
        {Object.entries(why.inputs ?? {})
          .map(([k, v]) => `${k.replaceAll("_", " ")} ${shown(v)}`)
          .join(", ")}
      </p>
    {/if}
  </div>
</details>

<style>
  details {
    display: inline-block;
    position: relative;
    font-size: 13.5px;
  }
  summary {
    cursor: pointer;
    text-decoration: underline dotted;
    text-underline-offset: 3px;
    list-style: none;
    min-height: 24px;
    color: var(--ink2);
  }
  /* As high as a thumb, without pushing the lines of its sentence apart. */
  @media (max-width: 1000px) {
    summary {
      padding: 13px 6px;
      margin: -13px -6px;
    }
  }
  summary::-webkit-details-marker {
    display: none;
  }
  div {
    position: absolute;
    z-index: 5;
    right: 0;
    top: 26px;
    width: 290px;
    padding: 10px 12px;
    background: var(--lift);
    border: 2px solid var(--ink);
    line-height: 1.35;
  }
</style>
