<script lang="ts" module>
  import type { Facts, Film, PlanTask } from "../api/client";

  export type LaneProps = {
    films: Film[];
    planned: PlanTask[];
    facts: Facts;
    /** Total dry film wanted [µm] and its tolerance. */
    target_um: number;
    tol_um: number;
    /** Top of the µm scale, the same for all lanes of a job. */
    scale_um: number;
    scale: TimeScale;
    width: number;
    height: number;
    now: number;
    /** Numbers of the planned coats in the order of work, by task key. */
    order?: Record<string, number>;
    gates?: { name: string; at: number }[];
    words?: boolean;
    /** The planned coat that is selected, by task key. */
    picked?: string | null;
  };
  import type { TimeScale } from "./scale";
  import { shortState } from "../lib/states";
  import { say } from "../words";
</script>

<script lang="ts">
  /** One part in time: bodies to scale, a skin in the state's texture while it is the top coat. */
  import { when } from "../lib/format";
  import { type Label, placeLabels } from "./scale";

  let {
    films,
    planned,
    facts,
    target_um,
    tol_um,
    scale_um,
    scale,
    width,
    height,
    now,
    order = {},
    gates = [],
    words = true,
    picked = null,
  }: LaneProps = $props();

  const PAST_SKIN = 8;
  const PLANNED_SKIN = 5;
  const base = $derived(height - 9);
  const coats = $derived(planned.filter((t) => t.kind === "coat" && !t.locked).toSorted((a, b) => a.start_at - b.start_at));
  /** What builds no film is drawn by its coats: alone on the lane a share of it each, else a thin line. */
  const builds = $derived(target_um > 0);
  const full = $derived(builds ? Math.max(1, scale_um) : Math.max(1, films.length + coats.length));
  const thin = $derived(builds ? 0.04 * full : 1);
  const k = $derived((height - 40) / full);
  const y = $derived((um: number): number => base - um * k);
  const unmask = $derived(planned.find((t) => t.kind === "unmask"));
  /** What the sheet wants done to the last coat. */
  const then = $derived(planned.find((t) => t.kind === "step" && coats.length > 0 && t.waits_key === coats.at(-1)!.key));
  /** Steps stand as boxes on the ground, as wide as they take. */
  const steps = $derived(
    planned
      .filter((t) => t.kind === "step")
      .map((t) => ({
        key: t.key,
        x: scale.x(Math.max(t.start_at, now)),
        to: scale.x(t.end_at),
        name: t.label.slice(t.label.indexOf(", ") + 2),
      }))
      .filter((s) => s.to > s.x),
  );
  const rise = (f: Film): number => f.dry_um?.likely ?? thin;
  const total = $derived(films.reduce((sum, f) => sum + rise(f), 0));

  type Body = { points: string; texture: string; top: string; planned: boolean };
  type Skin = { points: string; state: string; planned: boolean; glint: string; key: string };

  function perCoat(task: PlanTask): number {
    const layer = facts.layers.find((l) => task.key.includes(l.id));
    return layer?.target_um ? layer.target_um / layer.coats : thin;
  }
  function texture(layerId: string): string {
    const sheet = facts.sheets[facts.layers.find((l) => l.id === layerId)?.sheet_id ?? ""];
    return `url(#m-${sheet?.texture ?? "plain"})`;
  }
  function poly(points: [number, number][]): string {
    return points.map(([t, um]) => `${scale.x(t).toFixed(1)},${y(um).toFixed(1)}`).join(" ");
  }

  const levels = $derived.by(() => {
    let low = 0;
    return films.map((f) => ({ low, high: (low += rise(f)) }));
  });
  const bodies = $derived.by((): Body[] => {
    const end = scale.to;
    const out: Body[] = films.map((f, i) => {
      const { low, high } = levels[i]!;
      const done = f.done_at ?? Math.max(now, f.started_at + 60);
      return {
        points: poly([
          [f.started_at, low],
          [done, high],
          [end, high],
          [end, low],
        ]),
        texture: texture(f.layer_id),
        top: poly([
          [f.started_at, low],
          [end, low],
        ]),
        planned: false,
      };
    });
    let low = total;
    for (const t of coats) {
      const high = low + perCoat(t);
      out.push({
        points: poly([
          [t.start_at, low],
          [t.end_at, high],
          [end, high],
          [end, low],
        ]),
        texture: "var(--plan)",
        top: poly([
          [t.start_at, low],
          [t.end_at, high],
          [end, high],
        ]),
        planned: true,
      });
      low = high;
    }
    return out;
  });

  function skin(a: number, b: number, ua: number, ub: number, state: string, isPlan: boolean, key: string): Skin[] {
    const from = Math.max(a, scale.from);
    const to = Math.min(b, scale.to);
    if (to <= from) return [];
    const out: Skin[] = [];
    const cuts = from < now && now < to && !isPlan ? [from, now, to] : [from, to];
    for (let i = 0; i + 1 < cuts.length; i++) {
      const p = cuts[i]!;
      const q = cuts[i + 1]!;
      const at = (t: number): number => (b === a ? ub : ua + ((ub - ua) * (t - a)) / (b - a));
      const h = isPlan || p >= now ? PLANNED_SKIN : PAST_SKIN;
      const [x0, x1, y0, y1] = [scale.x(p), scale.x(q), y(at(p)), y(at(q))];
      const f = (n: number): string => n.toFixed(1);
      out.push({
        points: `${f(x0)},${f(y0)} ${f(x0)},${f(y0 - h)} ${f(x1)},${f(y1 - h)} ${f(x1)},${f(y1)}`,
        state,
        planned: isPlan || p >= now,
        key: `${key}-${i}`,
        glint: state === "wet" && x1 - x0 > 7 ? `M${f(x0 + 2)} ${f(y0 - h + 2.6)}L${f(x1 - 2)} ${f(y1 - h + 2.6)}` : "",
      });
    }
    return out;
  }

  const firstPlanned = $derived(coats[0]?.start_at ?? Infinity);
  const skins = $derived.by((): Skin[] => {
    const out: Skin[] = [];
    films.forEach((f, i) => {
      const { low, high } = levels[i]!;
      const end = i === films.length - 1 ? Math.max(now, firstPlanned) : Infinity;
      const done = f.done_at ?? Math.max(now, f.started_at + 60);
      for (const s of f.spans) {
        const to = Math.min(s.to_at ?? scale.to, end);
        if (s.from_at < done) {
          out.push(...skin(s.from_at, Math.min(to, done), low, high, s.state, false, `${f.coat_id}-${s.from_at}r`));
          if (to > done) out.push(...skin(done, to, high, high, s.state, false, `${f.coat_id}-${s.from_at}`));
        } else out.push(...skin(s.from_at, to, high, high, s.state, false, `${f.coat_id}-${s.from_at}`));
      }
    });
    let low = total;
    coats.forEach((t, i) => {
      const high = low + perCoat(t);
      const after = coats[i + 1] ?? unmask ?? then;
      // What comes after is the plan's to say; where it says nothing, nothing is drawn.
      const opens = Math.max(t.end_at, after?.opens_at ?? t.end_at);
      const next = coats[i + 1]?.start_at;
      out.push(...skin(t.start_at, t.end_at, low, high, "wet", true, `${t.key}w`));
      out.push(...skin(t.end_at, Math.min(opens, next ?? opens), high, high, "flash", true, `${t.key}f`));
      if (next !== undefined) out.push(...skin(opens, next, high, high, "open", true, `${t.key}o`));
      else if (after) out.push(...skin(opens, scale.to, high, high, "curing", true, `${t.key}c`));
      low = high;
    });
    return out;
  });

  /** Numbers of the planned coats; where two would touch, the later one is left to the list below. */
  const discs = $derived.by(() => {
    const out: { key: string; n: number; x: number; y: number }[] = [];
    let high = total;
    for (const t of coats) {
      const n = order[t.key];
      high += perCoat(t);
      if (!n) continue;
      const x = Math.max(scale.x(t.start_at), scale.x(now) + 13);
      const last = out.at(-1);
      if (!last || x - last.x > 22) out.push({ key: t.key, n, x, y: Math.max(12, y(high) - 16) });
    }
    return out;
  });
  const labels = $derived.by((): Label[] => {
    if (!words) return [];
    const out: Label[] = [];
    films.forEach((f, i) => {
      const { high } = levels[i]!;
      for (const s of f.spans) {
        const end = i === films.length - 1 ? Math.min(s.to_at ?? scale.to, Math.max(now, firstPlanned)) : (s.to_at ?? scale.to);
        const a = scale.x(Math.max(s.from_at, scale.from));
        const b = scale.x(Math.min(end, scale.to));
        const word = shortState(s.state);
        if (s.state !== "wet" && b - a > word.length * 6.6)
          out.push({ x: a + 4, y: y(high) - PAST_SKIN - 4, text: word, anchor: "start", rank: 4 });
      }
    });
    const last = films[films.length - 1];
    const closes = last?.spans.find((s) => s.state === "closing");
    const clash = coats[0] ? coats[0].start_at > (closes?.to_at ?? Infinity) : false;
    if (closes?.to_at && closes.to_at > now && coats.length && !clash) {
      out.push({ x: scale.x(closes.to_at), y: 14, text: say.lane.closes(when(closes.to_at, now)), anchor: "end", rank: 1 });
    }
    for (const s of steps) if (s.to - s.x > 7.2 * s.name.length) out.push({ x: s.x, y: base - 11, text: s.name, anchor: "start", rank: 3 });
    if (unmask)
      out.push({ x: scale.x(unmask.start_at) - 4, y: 14, text: say.lane.unmask(when(unmask.start_at, now)), anchor: "end", rank: 2 });
    for (const g of gates) {
      if (g.at > scale.from && g.at < scale.to) out.push({ x: scale.x(g.at) + 4, y: 27, text: g.name, anchor: "start", rank: 3 });
    }
    const taken = [
      ...discs.map((d) => ({ x0: d.x - 11, x1: d.x + 11, y0: d.y - 11, y1: d.y + 11 })),
      ...scale.tears.map((x) => ({ x0: x - 8, x1: x + 8, y0: 0, y1: height })),
    ];
    return placeLabels(out, 12.5, width, taken);
  });
  const bracket = $derived.by(() => {
    const spans = films[films.length - 1]?.spans.filter((s) => s.state === "open" || s.state === "closing") ?? [];
    const from = spans[0]?.from_at;
    const to = spans[spans.length - 1]?.to_at;
    if (!coats.length || from === undefined || !to || to <= now) return null;
    return { x0: scale.x(from), x1: scale.x(to) };
  });
</script>

<g>
  {#each bodies as b, i (i)}
    <polygon points={b.points} fill={b.texture} />
    <polyline
      points={b.top}
      fill="none"
      stroke={b.planned ? "var(--edge)" : "var(--b-line)"}
      stroke-width="1"
      stroke-dasharray={b.planned ? "3 3" : undefined}
    />
  {/each}
  <rect x="0" y={base} {width} height="5" fill="var(--b1)" />
  {#if builds}
    <line x1="0" x2={width} y1={y(target_um)} y2={y(target_um)} stroke="var(--ink)" stroke-width="1.2" stroke-dasharray="8 4" />
    {#each [target_um - tol_um, target_um + tol_um] as um, i (i)}
      <line x1="0" x2={width} y1={y(um)} y2={y(um)} stroke="var(--edge)" stroke-width="1" stroke-dasharray="2 3" />
    {/each}
  {/if}
  {#each skins as s (s.key)}
    <polygon
      points={s.points}
      fill={`url(#p-${s.state})`}
      stroke="var(--skin-line)"
      stroke-width={s.planned ? 0.8 : 1.2}
      opacity={s.planned ? 0.9 : 1}
    />
    {#if s.glint}<path d={s.glint} stroke="var(--wet-glint)" stroke-width="1.6" stroke-dasharray="9 3" fill="none" />{/if}
  {/each}
  {#each steps as s (s.key)}
    <rect x={s.x} y={base - 7} width={Math.max(1.5, s.to - s.x - 1)} height="7" fill="var(--field)" stroke="var(--ink)" stroke-width="1"
      ><title>{s.name}</title></rect
    >
  {/each}
  {#if bracket}
    <path d={`M${bracket.x0} 25V17H${bracket.x1}V25`} fill="none" stroke="var(--ink)" stroke-width="2" />
  {/if}
  {#if unmask}
    {@const x = scale.x(unmask.start_at)}
    <path d={`M${x} ${base}V6h9l-3 4 3 4h-9`} fill="var(--ink)" stroke="var(--ink)" stroke-width="1.4" />
  {/if}
  {#each gates as g, i (i)}
    {#if g.at > scale.from && g.at < scale.to}
      {@const x = scale.x(g.at)}
      <path d={`M${x} ${base}V20`} stroke="var(--ink)" stroke-width="1.3" /><circle cx={x} cy="19" r="3.4" fill="var(--ink)" />
    {/if}
  {/each}
  {#each labels as l, i (i)}
    <text class="halo" x={l.x} y={l.y} text-anchor={l.anchor} font-size="12.5">{l.text}</text>
  {/each}
  {#each discs as d (d.key)}
    <circle
      cx={d.x}
      cy={d.y}
      r={picked === d.key ? 11 : 9.5}
      fill="var(--ink)"
      stroke={picked === d.key ? "var(--lift)" : "none"}
      stroke-width="2"
    />
    <text class="disc" x={d.x} y={d.y + 4.4} text-anchor="middle" font-size="13">{d.n}</text>
  {/each}
</g>

<style>
  text {
    font-stretch: 84%;
    font-weight: 620;
  }
  .disc {
    fill: var(--on-ink);
    font-weight: 800;
  }
</style>
