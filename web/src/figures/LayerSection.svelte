<script lang="ts" module>
  import type { Sheet } from "../api/client";
  export type SectionLayer = { sheet: Sheet; coats: number; um: number };
  export type LayerSectionProps = { layers: SectionLayer[]; substrate: string; joins: { number: number; position: number; ok: boolean }[] };
</script>

<script lang="ts">
  /** The stack to scale: every coat set back like a sanded edge, joins between materials numbered. */
  let { layers, substrate, joins }: LayerSectionProps = $props();
  const total = $derived(Math.max(1, layers.reduce((s, l) => s + l.um, 0)));
  const k = $derived(330 / total);
  const coats = $derived.by(() => {
    let low = 0;
    let step = 0;
    return layers.flatMap((l, li) =>
      Array.from({ length: l.coats }, (_, n) => {
        const um = l.um / l.coats;
        const out = { li, n, low, high: low + um, step, um, sheet: l.sheet };
        low += um;
        step += 1;
        return out;
      }),
    );
  });
  const BASE = 380;
  const y = $derived((um: number): number => BASE - um * k);
  const edges = $derived(layers.map((_, i) => layers.slice(0, i).reduce((s, l) => s + l.um, 0)));
  const rule = $derived([10, 20, 50, 100, 200, 500, 1000].find((s) => total / s <= 9) ?? 2000);
</script>

<svg viewBox="0 0 560 460" role="img" aria-label={`Stack on ${substrate}: ${layers.map((l) => `${l.coats} × ${l.sheet.name}, ${Math.round(l.um)} µm`).join(", then ")}`}>
  <rect x="190" y={BASE} width="230" height="52" fill="url(#m-metal)" stroke="var(--ink)" stroke-width="1.5" />
  <text x="182" y={BASE + 30} text-anchor="end" font-size="15">{substrate}</text>
  {#each coats as c (`${c.li}-${c.n}`)}
    <rect x={190 + c.step * 9} y={y(c.high)} width={230 - c.step * 9} height={Math.max(1.5, (c.high - c.low) * k)} fill={`url(#m-${c.sheet.texture})`} stroke="var(--ink)" stroke-width="1.2" />
    {#if (c.high - c.low) * k > 15}<text class="um" x={412} y={y((c.low + c.high) / 2) + 5} text-anchor="end" font-size="13.5">{Math.round(c.um)}</text>{/if}
  {/each}
  {#each layers as l, i (i)}
    {@const mid = y(edges[i]! + l.um / 2)}
    <path d={`M428 ${y(edges[i]!) - 1}H434V${y(edges[i]! + l.um) + 1}H428`} fill="none" stroke="var(--ink)" stroke-width="1.5" />
    <text class="name" x="442" y={mid} font-size="16">{l.sheet.name}</text>
    <text x="442" y={mid + 17} font-size="13.5">{l.coats} × {Math.round(l.um / l.coats)} = {Math.round(l.um)} µm</text>
  {/each}
  {#each joins as j (j.number)}
    {@const at = y(edges[j.position] ?? 0)}
    {#if j.ok}<circle cx="160" cy={at} r="12" fill="var(--field)" stroke="var(--ink)" stroke-width="2" />
    {:else}<path d={`M160 ${at - 14}L175 ${at + 11}H145Z`} fill="var(--field)" stroke="var(--ink)" stroke-width="2" />{/if}
    <text class="um" x="160" y={at + 5} text-anchor="middle" font-size="14">{j.number}</text>
    <line x1="174" x2="190" y1={at} y2={at} stroke="var(--ink)" stroke-width="1.5" />
  {/each}
  {#each Array.from({ length: Math.floor(total / rule) + 1 }, (_, i) => i * rule) as um (um)}
    <line x1="84" x2="96" y1={y(um)} y2={y(um)} stroke="var(--ink)" /><text x="78" y={y(um) + 4} text-anchor="end" font-size="13">{um}{um === 0 ? " µm" : ""}</text>
  {/each}
  <line x1="90" x2="90" y1={y(0)} y2={y(total)} stroke="var(--ink)" />
</svg>

<style>
  svg { width: 100%; max-height: 520px; background: var(--field); }
  text { font-stretch: 84%; }
  .um { font-weight: 720; }
  .name { font-weight: 760; font-stretch: 72%; }
</style>
