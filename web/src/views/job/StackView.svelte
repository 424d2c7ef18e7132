<script lang="ts">
  /** Stack: the chosen layers to scale, and what the sheets say at each join. */
  import type { JobPage } from "../../api/client";
  import LayerSection from "../../figures/LayerSection.svelte";
  import { duration } from "../../lib/format";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const part = $derived(page.facts.parts[0]!);
  const layers = $derived(page.facts.layers.filter((l) => l.part_id === part.id).toSorted((a, b) => a.position - b.position));
  const shown = $derived(layers.map((l) => ({ sheet: page.facts.sheets[l.sheet_id]!, coats: l.coats, um: l.target_um ?? 0 })));
  const joins = $derived(
    page.facts.joins.toSorted((a, b) => Number(a.lower === a.upper) - Number(b.lower === b.upper)).map((j, i) => {
      const upperAt = layers.findIndex((l) => l.sheet_id === j.upper);
      const same = j.lower === j.upper;
      return { number: i + 1, position: upperAt, same, ok: true, join: j, lower: page.facts.sheets[j.lower]!, upper: page.facts.sheets[j.upper]! };
    }),
  );
  function say(w: { from_s: number; to_s?: number | null; at_degc: number; tacky?: boolean }): string {
    const to = w.to_s ? `to ${duration(w.to_s)}` : "with no end";
    return `${w.tacky ? "only while tacky, " : ""}${w.from_s ? duration(w.from_s) : "at once"} ${to} at ${w.at_degc} °C`;
  }
</script>

<div class="stack">
  <section class="figure"><LayerSection layers={shown} substrate={part.substrate.replace("_", " ")} joins={joins.filter((j) => !j.same)} /></section>
  <aside>
    <h2>At the joins</h2>
    {#each joins as j (j.number)}
      <p><b>{j.number}. {j.same ? `${j.lower.name} on itself` : `${j.upper.name} over ${j.lower.name.toLowerCase()}`}.</b>
        {j.join.recoat.windows.map(say).join("; or ")}.
        {#if j.join.recoat.fix?.length}Past it: {j.join.recoat.fix.join(" and ")}.{/if}</p>
    {/each}
    <h2>Materials</h2>
    {#each [...new Map(shown.map((l) => [l.sheet.id, l.sheet])).values()] as s (s.id)}
      <div class="mat">
        <p><b>{s.name}</b>, {s.kind}. {s.grade === "typical" ? "Typical values: the can's own sheet wins." : "From its sheet."}</p>
        {#each s.hazards as h (h)}<p class="haz">{h}</p>{/each}
      </div>
    {/each}
    <h2>Parts</h2>
    {#each page.facts.parts as p (p.id)}<p>{p.name}{p.count > 1 ? ` × ${p.count}` : ""}: {p.area_m2} m², {p.substrate.replace("_", " ")}{p.condition ? `, ${p.condition}` : ""}</p>{/each}
  </aside>
</div>

<style>
  .stack { display: grid; grid-template-columns: 1fr 400px; flex: 1; }
  .figure { background: var(--field); padding: 16px 24px; }
  aside { border-left: 2px solid var(--ink); padding: 16px 20px; display: grid; gap: 8px; align-content: start; }
  aside h2:not(:first-child) { margin-top: 12px; padding-top: 10px; border-top: 1px solid var(--rule); }
  .haz { font-size: 14px; border-left: 4px solid var(--ink); padding-left: 8px; margin-top: 4px; }
  @media (max-width: 900px) { .stack { grid-template-columns: 1fr; } aside { border-left: 0; } }
</style>
