<script lang="ts">
  /** The share of a finish that still holds over time, as a stair with its doubt; ticks are those that hold still. */
  import type { Schemas } from "../api/client";
  import { duration, percent } from "../lib/format";
  import { say } from "../words";

  type Props = { groups: readonly Schemas["Group"][]; names: readonly string[] };
  let { groups, names }: Props = $props();
  let width = $state(600);
  const [H, TOP, FOOT, LEFT] = [230, 14, 30, 52];
  const longest = $derived(Math.max(1, ...groups.map((g) => g.longest_s)));
  const x = (s: number): number => LEFT + (s / longest) * Math.max(1, width - LEFT - 12);
  const y = (share: number): number => TOP + (1 - share) * (H - TOP - FOOT);
  type Told = { at_s: number; share: number; low: number; high: number };
  /** From the start to the longest seen, a step at each failure. */
  const stairs = (g: Schemas["Group"]): Told[] => {
    const steps = [{ at_s: 0, share: 1, low: 1, high: 1 }, ...(g.steps ?? [])];
    return [...steps, { ...steps.at(-1)!, at_s: g.longest_s }];
  };
  const path = (told: Told[], of: "share" | "low" | "high"): string =>
    told.map((s, i) => (i ? `H${x(s.at_s).toFixed(1)}V${y(s[of]).toFixed(1)}` : `M${x(0)} ${y(1)}`)).join("");
  /** Down the upper edge of the doubt and back along the lower. */
  const band = (told: Told[]): string => {
    const back = told
      .toReversed()
      .map((s, i, all) => `V${y(s.low).toFixed(1)}H${x(all[i + 1]?.at_s ?? 0).toFixed(1)}`)
      .join("");
    return `${path(told, "high")}${back}Z`;
  };
  const holding = (told: Told[], at: number): number => told.findLast((s) => s.at_s <= at)?.share ?? 1;
  const marks = $derived([0, 0.25, 0.5, 0.75, 1].map((f) => f * longest));
</script>

<div class="box">
  <div class="in" bind:clientWidth={width}>
    <svg {width} height={H} role="img" aria-label={say.durability.curveOf(names.join(", "))}>
      {#each [1, 0.5, 0] as share (share)}
        <line
          x1={LEFT}
          x2={width}
          y1={y(share)}
          y2={y(share)}
          stroke="var(--edge)"
          stroke-dasharray={share === 0.5 ? "6 4" : undefined}
        /><text x={LEFT - 8} y={y(share) + 5} text-anchor="end">{percent(share)}</text>
      {/each}
      {#each marks as m, i (i)}<text x={x(m)} y={H - 8} text-anchor={i === 0 ? "start" : i === 4 ? "end" : "middle"}
          >{i ? duration(m) : say.durability.inUse}</text
        >{/each}
      {#each groups as g, n (g.key)}
        {@const told = stairs(g)}
        <path d={band(told)} fill={n ? "var(--b2)" : "var(--b4)"} opacity="0.35" />
        <path d={path(told, "share")} fill="none" stroke="var(--ink)" stroke-width="3" stroke-dasharray={n ? "9 5" : undefined} />
        {#each g.held_s ?? [] as at, i (i)}<line
            x1={x(at)}
            x2={x(at)}
            y1={y(holding(told, at)) - 6}
            y2={y(holding(told, at)) + 6}
            stroke="var(--ink)"
            stroke-width="1.5"
          />{/each}
      {/each}
    </svg>
  </div>
  <ul>
    {#each names as name, n (n)}<li>
        <svg width="44" height="10" aria-hidden="true"
          ><line x1="0" x2="44" y1="5" y2="5" stroke="var(--ink)" stroke-width="3" stroke-dasharray={n ? "9 5" : undefined} /></svg
        ><b>{name}</b>
        {say.durability.groupOf(groups[n]!.counted, groups[n]!.failed)}
      </li>{/each}
  </ul>
</div>

<style>
  svg {
    display: block;
  }
  text {
    font-size: 13px;
    fill: var(--ink2);
  }
  .in {
    overflow: hidden;
  }
  .box {
    min-width: 0;
    background: var(--field);
    padding: 8px 12px;
  }
  ul {
    list-style: none;
    display: flex;
    flex-wrap: wrap;
    gap: 4px 24px;
    font-size: 14.5px;
  }
  li {
    display: flex;
    gap: 8px;
    align-items: center;
  }
</style>
