<script lang="ts">
  /** The cup to scale: millilitre marks left, cumulative scale readings right, poured from the bottom up. */
  import type { MixPage } from "../api/client";
  import { bare, rulerMarks, show, unit, volume } from "../lib/format";
  import { say } from "../words";

  type Props = { mix: MixPage; next: string | null };
  let { mix, next }: Props = $props();
  let box = $state(900);
  /** On a phone, and where there is no room, the readings stand under the cup, in words of their full size. */
  const small = $derived(box < 840);
  const H = 340;
  const TOP = 40;
  const BASE = H + TOP;
  const full = $derived(mix.cup.total_ml * 1.18);
  const y = $derived((ml: number): number => BASE - (ml / full) * H);
  const poured = $derived(new Map((mix.poured?.poured ?? []).map((p) => [p.role, p])));
  const left = (yy: number): number => 150 + ((BASE - yy) / H) * -20;
  const right = (yy: number): number => 350 + ((BASE - yy) / H) * 20;
  const layers = $derived(
    mix.cup.pours.map((p, i) => ({
      ...p,
      low: i ? mix.cup.pours[i - 1]!.mark_ml : 0,
      fill: ["var(--b2)", "var(--b4)", "var(--plan)", "var(--b3)"][i % 4]!,
    })),
  );
  const marks = $derived(rulerMarks("ml", full, 13).slice(1));
  /** Rows on the right keep their distance however thin a pour is. */
  const rows = $derived.by(() => {
    const GAP = 92;
    const TOP_ROW = 78;
    let floor = BASE - 20;
    const up = layers.map((p) => {
      const at = Math.min(y(p.mark_ml) + 8, floor);
      floor = at - GAP;
      return { ...p, at };
    });
    // Too high at the top: push down again, the last pour first.
    let ceiling = TOP_ROW;
    for (const row of up.toReversed()) {
      row.at = Math.max(row.at, ceiling);
      ceiling = row.at + GAP;
    }
    return up;
  });
</script>

<div bind:clientWidth={box}>
  <svg
    viewBox={small ? "66 14 330 376" : "0 0 900 400"}
    role="img"
    aria-label={say.cup.cupFor(
      volume(mix.cup.total_ml),
      mix.cup.pours.map((p) => say.cup.toOr(p.name, show("ml", p.mark_ml), show("g", p.scale_g))).join(", "),
    )}
  >
    {#each layers as p, i (i)}
      {@const on = poured.has(p.role)}
      <polygon
        points={`${left(y(p.low))},${y(p.low)} ${right(y(p.low))},${y(p.low)} ${right(y(p.mark_ml))},${y(p.mark_ml)} ${left(y(p.mark_ml))},${y(p.mark_ml)}`}
        fill={on ? p.fill : "var(--field)"}
        stroke="var(--ink)"
        stroke-width={on ? 1.5 : 1}
        stroke-dasharray={on ? undefined : "6 4"}
      />
      {#if y(p.low) - y(p.mark_ml) > 26}
        <text class="in" x="250" y={(y(p.low) + y(p.mark_ml)) / 2 + 7} text-anchor="middle" font-size="20">{p.name}</text>
      {/if}
    {/each}
    <path d={`M128 ${TOP}H132L150 ${BASE}H350L368 ${TOP}H372`} fill="none" stroke="var(--ink)" stroke-width="4" />
    {#each marks as m, i (i)}
      <line x1={left(y(m)) + 3} x2={left(y(m)) + 16} y1={y(m)} y2={y(m)} stroke="var(--ink)" stroke-width="1.2" />
      <text x={left(y(m)) - 8} y={y(m) + 4} text-anchor="end" font-size={small ? 16 : 13}>{bare("ml", m, 0)}</text>
    {/each}
    <text x="128" y={TOP - 10} text-anchor="end" font-size={small ? 16 : 13}>{unit("ml")}</text>
    {#each small ? [] : rows as p, i (i)}
      {@const on = poured.get(p.role)}
      {@const lift = p.role === next}
      <path
        d={`M${right(y(p.mark_ml)) + 2} ${y(p.mark_ml)}L440 ${p.at - 26}H462`}
        fill="none"
        stroke="var(--ink)"
        stroke-width={lift ? 2.2 : 1.2}
      />
      {#if lift}<rect x="464" y={p.at - 74} width="434" height="92" fill="var(--lift)" stroke="var(--ink)" stroke-width="2.4" />{/if}
      {#if on}<rect x="470" y={p.at - 38} width="24" height="24" fill="var(--ink)" /><path
          d={`M475 ${p.at - 27}l5 6 9 -11`}
          fill="none"
          stroke="var(--on-ink)"
          stroke-width="2.6"
        />{/if}
      <text class="num" x="650" y={p.at - 8} text-anchor="end" font-size={lift ? 74 : 46}>{bare("g", p.scale_g)}</text>
      <text x="656" y={p.at - 8} font-size="19" font-weight="700">{unit("g")}</text>
      <text class="role" x="690" y={p.at - 46} font-size="18">{p.name}{lift ? say.cup.addNow : on ? say.cup.added : ""}</text>
      <text x="690" y={p.at - 25} font-size="14.5">{say.cup.toTheMark(show("ml", p.ml), bare("ml", p.mark_ml))}</text>
      <text x="690" y={p.at - 6} font-size="14.5">+ {show("g", p.g)}. {p.share.replace(/, by \w+$| \([^)]*\)$/, "")}</text>
    {/each}
  </svg>
  {#if small}
    <ol>
      {#each layers as p (p.role)}
        <li class:lift={p.role === next}>
          <span><span class="num">{bare("g", p.scale_g)}</span> {unit("g")}</span>
          <span
            ><b>{p.name}{p.role === next ? say.cup.addNow : poured.has(p.role) ? say.cup.added : ""}</b>
            {say.cup.toTheMark(show("ml", p.ml), bare("ml", p.mark_ml))}<br />+ {show("g", p.g)}. {p.share.replace(
              /, by \w+$| \([^)]*\)$/,
              "",
            )}</span
          >
        </li>
      {/each}
    </ol>
  {/if}
</div>

<style>
  svg {
    width: 100%;
    height: auto;
    max-height: 560px;
    display: block;
  }
  ol {
    list-style: none;
    display: grid;
    gap: 6px;
  }
  li {
    display: grid;
    grid-template-columns: 120px 1fr;
    gap: 12px;
    align-items: center;
    padding: 8px 10px;
    border-top: 1px solid var(--rule);
  }
  li b {
    display: block;
  }
  li .num {
    font-size: 34px;
  }
  li.lift {
    background: var(--lift);
    border: 2.4px solid var(--ink);
  }
  @media (max-width: 700px) {
    svg {
      max-height: 300px;
    }
  }
  text {
    font-stretch: 84%;
  }
  .in {
    font-weight: 760;
    font-stretch: 72%;
  }
  .role {
    font-weight: 760;
  }
  .num {
    font-stretch: 62%;
    font-weight: 820;
  }
</style>
