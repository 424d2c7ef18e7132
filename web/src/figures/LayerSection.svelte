<script lang="ts" module>
  import type { Sheet } from "../api/client";
  import { say } from "../words";
  export type SectionLayer = { sheet: Sheet; coats: number; um: number };
  export type LayerSectionProps = {
    layers: SectionLayer[];
    substrate: string;
    joins: { number: number; position: number; ok: boolean; tacky?: boolean }[];
    /** What kind of ground it is, for its texture. */
    group?: string;
    /** Beside another one: names inside, no braces. */
    narrow?: boolean;
    /** The taller of two, so that both share a ruler [µm]. */
    scale_um?: number;
  };
</script>

<script lang="ts">
  /** The stack to scale: every coat set back like a sanded edge, joins between materials numbered.
   * What builds no film is a line of its own colour, not a thickness. */
  import { bare, rulerMarks, show } from "../lib/format";

  let { layers, substrate, joins, group = "metal", narrow = false, scale_um = 0 }: LayerSectionProps = $props();
  const ground = $derived(group === "metal" ? "m-metal" : group === "fabric" || group === "plastic" ? "m-weave" : "m-ground");
  const total = $derived(
    Math.max(
      1,
      layers.reduce((s, l) => s + l.um, 0),
    ),
  );
  const k = $derived(330 / Math.max(total, scale_um));
  let box = $state(610);
  /** On a phone it is drawn at the width there is, so that its words stay readable. */
  const small = $derived(!narrow && box < 520);
  /** In a card of a few: shape and scale alone, the names stand beside it. */
  const tiny = $derived(narrow && box < 240);
  const W = $derived(narrow ? 300 : small ? Math.max(330, box) : 610);
  const LEFT = $derived(narrow ? 70 : small ? 88 : 190);
  const RULER = $derived(small ? 42 : 90);
  const BASE = 380;
  const THIN = 7;
  /** A long name does not fit beside the ground. */
  const below = $derived(narrow || small || substrate.length > 22);
  const coats = $derived.by(() => {
    let at = BASE;
    let step = 0;
    return layers.flatMap((l, li) =>
      Array.from({ length: l.coats }, (_, n) => {
        const um = l.um / l.coats;
        const h = l.sheet.film ? Math.max(1.5, um * k) : THIN;
        at -= h;
        step += 1;
        return { li, n, y: at, h, step: step - 1, um, sheet: l.sheet };
      }),
    );
  });
  /** Top and bottom of each layer in pixels. */
  const spans = $derived(
    layers.map((_, i) => {
      const mine = coats.filter((c) => c.li === i);
      return { low: (mine[0]?.y ?? BASE) + (mine[0]?.h ?? 0), high: mine.at(-1)?.y ?? BASE };
    }),
  );
  /** Names keep their distance however thin a layer is. */
  const names = $derived.by(() => {
    let floor = BASE + 40;
    return layers.map((l, i) => {
      const mid = (spans[i]!.low + spans[i]!.high) / 2;
      const at = Math.min(mid, floor - 36);
      floor = at;
      return { l, at, span: spans[i]! };
    });
  });
  const ruler = $derived(rulerMarks("um", Math.max(total, 1), 9));
  const step = $derived(narrow ? Math.min(9, 120 / Math.max(1, coats.length)) : Math.min(9, 150 / Math.max(1, coats.length)));
  const BODY = $derived(narrow ? 210 : small ? W - 250 : 230);
</script>

<div bind:clientWidth={box}>
  <svg
    viewBox={`0 0 ${W} 460`}
    role="img"
    aria-label={say.section.systemOn(
      substrate,
      layers
        .map((l) => `${l.coats} × ${l.sheet.name}${l.sheet.film ? `, ${show("um", l.um)}` : say.section.noFilmBuild}`)
        .join(say.common.then),
    )}
  >
    <rect x={LEFT} y={BASE} width={BODY} height="52" fill={`url(#${ground})`} stroke="var(--ink)" stroke-width="1.5" />
    {#if !tiny}<text x={below ? LEFT : LEFT - 8} y={below ? BASE + 68 : BASE + 30} text-anchor={below ? "start" : "end"} font-size="15"
        >{substrate}</text
      >{/if}
    {#each coats as c (`${c.li}-${c.n}`)}
      <rect
        x={LEFT + c.step * step}
        y={c.y}
        width={BODY - c.step * step}
        height={c.h}
        fill={c.sheet.film ? `url(#m-${c.sheet.texture})` : "var(--lift)"}
        stroke="var(--ink)"
        stroke-width="1.2"
      />
      {#if c.h > 15 && !tiny}<text class="um" x={LEFT + BODY - 8} y={c.y + c.h / 2 + 5} text-anchor="end" font-size="13.5"
          >{bare("um", c.um)}</text
        >{/if}
    {/each}
    {#each names as { l, at, span }, i (i)}
      {#if narrow}
        {#if span.low - span.high > 15 && !tiny}<text
            class="name halo"
            x={LEFT + BODY - 40}
            y={(span.low + span.high) / 2 + 5}
            text-anchor="end"
            font-size="14">{say.section.text(l.coats, l.sheet.name)}</text
          >{/if}
      {:else}
        <path
          d={`M${LEFT + BODY + 8} ${span.low - 1}H${LEFT + BODY + 14}V${span.high + 1}H${LEFT + BODY + 8}`}
          fill="none"
          stroke="var(--ink)"
          stroke-width="1.5"
        />
        <text class="name" x={LEFT + BODY + 22} y={at} font-size="16">{l.sheet.name}</text>
        <text x={LEFT + BODY + 22} y={at + 17} font-size="13.5"
          >{l.sheet.film ? `${l.coats} × ${bare("um", l.um / l.coats)} = ${show("um", l.um)}` : say.section.absorbed(l.coats)}</text
        >
      {/if}
    {/each}
    {#each joins as j (j.number)}
      {@const at = spans[j.position]?.low ?? BASE}
      {@const x = LEFT - 30}
      {#if j.tacky}<rect x={LEFT} y={at - 4} width={BODY} height="8" fill="url(#p-flash)" stroke="var(--skin-line)" stroke-width="1" />{/if}
      {#if j.ok}<circle cx={x} cy={at} r="12" fill="var(--field)" stroke="var(--ink)" stroke-width="2" />
      {:else}<path d={`M${x} ${at - 14}L${x + 15} ${at + 11}H${x - 15}Z`} fill="var(--field)" stroke="var(--ink)" stroke-width="2" />{/if}
      <text class="um" {x} y={at + 5} text-anchor="middle" font-size="14">{j.number}</text>
      <line x1={x + 14} x2={LEFT} y1={at} y2={at} stroke="var(--ink)" stroke-width="1.5" />
    {/each}
    {#if !narrow && layers.some((l) => l.sheet.film)}
      {#each ruler as um, i (i)}
        <line x1={RULER - 6} x2={RULER + 6} y1={BASE - um * k} y2={BASE - um * k} stroke="var(--ink)" /><text
          x={RULER - 12}
          y={BASE - um * k + 4}
          text-anchor="end"
          font-size="13">{bare("um", um)}{um === 0 ? ` ${show("um", 0).split(" ")[1]}` : ""}</text
        >
      {/each}
      <line x1={RULER} x2={RULER} y1={BASE} y2={BASE - total * k} stroke="var(--ink)" />
    {/if}
  </svg>
</div>

<style>
  div {
    min-width: 0;
  }
  svg {
    display: block;
    width: 100%;
    max-height: 520px;
    background: var(--field);
  }
  text {
    font-stretch: 84%;
  }
  .um {
    font-weight: 720;
  }
  .name {
    font-weight: 760;
    font-stretch: 72%;
  }
</style>
