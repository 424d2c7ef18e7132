<script lang="ts">
  /** What the two stacks look like and come to, and what the rules say of the chosen one. */
  import type { Finding, Schemas } from "../api/client";
  import LayerSection from "../figures/LayerSection.svelte";
  import type { Draft, Side } from "../lib/draft.svelte";
  import { duration, money, um, volume } from "../lib/format";
  import { keyed } from "../lib/keyed";
  import { session } from "../lib/session.svelte";
  import AskFact from "../ui/AskFact.svelte";
  import Stop from "../ui/Stop.svelte";
  import PartsPicture from "./PartsPicture.svelte";
  import { say } from "../words";

  type Verdicts = { findings: Finding[]; summary: Schemas["Summary"] | null };
  type Props = { draft: Draft; told: Record<Side, Verdicts> };
  let { draft, told }: Props = $props();
  const both = $derived(draft.a.length > 0 && draft.b.length > 0);
  const chosen = $derived(told[draft.chosen]);
  const other = $derived<Side>(draft.chosen === "a" ? "b" : "a");
  const ground = $derived(draft.survey?.substrates.find((s) => s.id === draft.partsOf()[0]?.substrate)?.name ?? "");
  const section = (s: Side) =>
    draft
      .layers(s)
      .map((l) => {
        const sheet = draft.sheet(l.sheet_id)!;
        return { sheet, coats: l.coats, um: sheet?.film ? (l.target_um ?? draft.usualUm(l.sheet_id, l.coats)) : 0 };
      })
      .filter((l) => l.sheet);
  /** Joins something is said against, each once however much is said. */
  const stopped = (s: Side) => [...new Set(told[s].findings.filter((f) => f.severity === "stop" && f.position > 0).map((f) => f.position))];
  const scale = $derived(Math.max(...(["a", "b"] as const).map((s) => section(s).reduce((sum, l) => sum + l.um, 0)), 1));
  const GATES: Record<string, string> = {
    immerse_from: say.systemSide.inTheWater,
    use: say.common.inUse,
    handle: say.systemSide.handled,
    full: say.systemSide.fullyCured,
  };
  const LINES: [string, (x: Schemas["Summary"]) => string][] = [
    [say.systemSide.totalDft, (x) => (x.film_um ? um(x.film_um) : say.common.none)],
    [say.common.coats, (x) => String(x.coats)],
    [say.systemSide.totalMixed, (x) => volume(x.total_ml)],
    [say.systemSide.materialCost, (x) => (x.cost == null ? say.common.priceNotSet : money(x.cost))],
    [
      say.systemSide.shortestTime,
      (x) =>
        x.shortest_s == null ? say.systemSide.unknown : say.systemSide.then(duration(x.shortest_s), GATES[x.ready_gate] ?? x.ready_gate),
    ],
    [say.common.claimedLife, (x) => (x.claim_s == null ? say.common.notStated : duration(x.claim_s))],
    [say.systemSide.wetOnTackyRecoats, (x) => String(x.tacky_joins)],
    [say.common.respiratoryProtection, (x) => (x.air_fed ? say.common.airFedMask : say.common.seeTheDataSheet)],
  ];
  const may = $derived(session.who?.role === "owner");
</script>

{#each keyed(chosen.findings, (f) => f.rule_id) as { key, row: f } (key)}
  {#if f.severity === "stop"}
    <Stop what={f.what} why={f.why} instead={f.instead} />
    {#if f.asks}
      {#if f.asks !== "features"}<AskFact fact={f.asks} question={f.instead} answered={() => (draft.answers += 1)} />{/if}
    {:else if may && f.overrule !== "never"}
      <label
        >{say.systemSide.overrideBecause}
        <input
          bind:value={draft.reasons[f.rule_id]}
          placeholder={f.overrule === "sheet" ? say.systemSide.whatTheProductsDataSheet : say.systemSide.theReasonForTheLog}
        /></label
      >
    {:else}<p class="mute">
        {f.overrule === "never" ? say.systemSide.thisStopCannotBeOverridden : say.systemSide.onlyTheOwnerCanOverride}
      </p>{/if}
  {/if}
{/each}
<div class="figures" class:both>
  {#each ["a", "b"] as const as s (s)}
    {#if draft[s].length}
      <div class="one" class:chosen={both && draft.chosen === s}>
        {#if both}
          <button
            type="button"
            class="btn small"
            class:go={draft.chosen === s}
            aria-pressed={draft.chosen === s}
            onclick={() => (draft.chosen = s)}>{draft.chosen === s ? say.common.selected : say.systemSide.select}</button
          >
        {/if}
        <LayerSection
          layers={section(s)}
          substrate={ground}
          group={draft.survey?.substrates.find((s) => s.id === draft.partsOf()[0]?.substrate)?.group ?? ""}
          narrow={both}
          scale_um={scale}
          joins={stopped(s).map((position, i) => ({ number: i + 1, position, ok: false }))}
        />
      </div>
    {/if}
  {/each}
</div>
{#if !draft.a.length && !draft.b.length}<PartsPicture {draft} />
  <p class="mute">{say.systemSide.addALayerItIs}</p>{/if}
{#if told.a.summary || told.b.summary}
  <table>
    <thead
      ><tr
        ><th><span class="sr">{say.common.what}</span></th>{#if draft.a.length}<th>{both ? say.common.optionA : say.systemSide.summary}</th
          >{/if}{#if draft.b.length}<th>{say.common.optionB}</th>{/if}</tr
      ></thead
    >
    <tbody>
      {#each LINES as [name, value] (name)}
        <tr
          ><th scope="row">{name}</th>{#each ["a", "b"] as const as s (s)}{#if draft[s].length}<td class:chosen={both && draft.chosen === s}
                >{told[s].summary ? value(told[s].summary!) : say.systemSide.enterTheAreaFirst}</td
              >{/if}{/each}</tr
        >
      {/each}
    </tbody>
  </table>
{/if}
{#if both}<label
    >{say.systemSide.whyOptionWasRejected(other === "a" ? say.systemSide.a : say.systemSide.b)}
    <input bind:value={draft.rejectedWhy} placeholder={say.systemSide.savedWithTheJob} /></label
  >{/if}
{#each chosen.findings.filter((f) => f.severity !== "stop") as f, i (i)}
  <p class={f.severity}><b>{f.severity === "warn" ? say.common.caution : say.common.note}: {f.what}</b> {f.why} {f.instead}</p>
{/each}

<style>
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .figures {
    display: grid;
    gap: 12px;
  }
  .figures.both {
    grid-template-columns: 1fr 1fr;
  }
  .one {
    display: grid;
    gap: 6px;
    align-content: start;
    min-width: 0;
  }
  .one.chosen {
    box-shadow: inset 0 4px var(--ink);
    padding-top: 8px;
  }
  .one:not(.chosen) {
    padding-top: 8px;
  }
  table {
    width: 100%;
    font-size: 14px;
  }
  th,
  td {
    padding: 4px 8px 4px 0;
    border-top: 1px solid var(--rule);
    text-align: left;
  }
  tbody th {
    font-weight: 450;
    color: var(--ink2);
  }
  td {
    font-weight: 620;
  }
  td.chosen {
    background: var(--lift);
    padding-left: 6px;
  }
  .warn {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  .advise {
    border-left: 2px solid var(--edge);
    padding-left: 10px;
    font-size: 14px;
  }
  @media (max-width: 700px) {
    .figures.both {
      grid-template-columns: 1fr;
    }
  }
</style>
