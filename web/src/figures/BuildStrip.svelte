<script lang="ts">
  /** All parts of a job in time, one lane each in the order of next work, and the air below. */
  import type { JobPage, PartView } from "../api/client";
  import { bare, clockTime, dayName, duration, kelvin, um, when } from "../lib/format";
  import { gateName } from "../lib/gates";
  import { currentView } from "../lib/pick";
  import StateTag from "../ui/StateTag.svelte";
  import Lane from "./Lane.svelte";
  import { stripScale, ticks } from "./scale";
  import { actBy } from "../lib/actions";
  import { say } from "../words";

  type Props = {
    page: JobPage;
    now: number;
    pick?: (partId: string) => void;
    picked?: string | null;
    laneHeight?: number;
    /** The planned coat that is selected, and what to do when one is tapped or dropped at another time. */
    task?: string | null;
    pickTask?: (key: string) => void;
    drop?: (key: string, at: number) => void;
    zoom?: number;
    setZoom?: (zoom: number) => void;
  };
  let { page, now, pick, picked = null, laneHeight = 76, task = null, pickTask, drop, zoom = 1, setZoom }: Props = $props();
  let box = $state(0);
  let drag = $state<{ key: string; part: string; x: number; from: number; moved: boolean } | null>(null);
  const HEAD = 200;
  const width = $derived(Math.max(320, box - HEAD));

  const films = $derived(page.state.parts.flatMap((p) => p.films));
  const from = $derived(Math.min(now - 1800, ...films.map((f) => f.started_at)));
  const planEnd = $derived(Math.max(now, ...(page.plan?.tasks ?? []).map((t) => t.end_at)));
  const to = $derived(
    Math.max(planEnd + 24 * 3600, ...page.state.parts.flatMap((p) => p.gates.map((g) => Math.min(g.likely_at ?? 0, now + 4 * 86400)))),
  );
  const focus = $derived(Math.max(now, page.plan?.tasks.find((t) => t.key === task)?.start_at ?? now));
  const scale = $derived(stripScale(now, from, planEnd, to, width, zoom, focus));
  const closing = $derived(page.hours.find((h) => h.to_at > now)?.to_at ?? null);
  const limits = $derived(
    [
      { at: closing, name: say.strip.window },
      { at: page.due_at, name: "due" },
      { at: page.slot_at, name: say.strip.launch },
    ].filter((l): l is { at: number; name: string } => l.at !== null && l.at > now && l.at < scale.to),
  );
  const handles = $derived.by(() => {
    const out: { key: string; part: string; label: string; at: number; x: number }[] = [];
    for (const t of coats) {
      const x = Math.max(scale.x(t.start_at), scale.x(now) + 13);
      // Two that would lie over one another are reached by the arrow keys and the zoom.
      if (out.some((h) => h.part === t.part_id && Math.abs(h.x - x) < 27)) continue;
      out.push({ key: t.key, part: t.part_id, label: t.label, at: t.start_at, x });
    }
    return out;
  });
  /** Boxes of the stop row that do not touch; the words below name them all. */
  const stops = $derived.by(() => {
    const out: { at: number; x: number; safe: boolean; why: string }[] = [];
    for (const s of page.stops) {
      const x = scale.x(Math.max(s.at, now));
      if (!out.length || x - out.at(-1)!.x > 24) out.push({ at: s.at, x, safe: s.safe, why: s.why });
    }
    return out;
  });
  function grab(event: PointerEvent, key: string, part: string): void {
    pickTask?.(key);
    if (!drop || event.button !== 0) return;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    drag = { key, part, x: event.clientX, from: event.clientX, moved: false };
  }
  function pull(event: PointerEvent): void {
    if (drag) drag = { ...drag, x: event.clientX, moved: drag.moved || Math.abs(event.clientX - drag.from) > 6 };
  }
  function let_go(): void {
    const was = drag;
    drag = null;
    if (was?.moved) drop?.(was.key, Math.round(dragAt(was)));
  }
  function dragAt(d: { key: string; x: number; from: number }): number {
    const h = handles.find((o) => o.key === d.key);
    return scale.at((h?.x ?? 0) + d.x - d.from);
  }
  function wheel(event: WheelEvent): void {
    if (!event.ctrlKey || !setZoom) return;
    event.preventDefault();
    setZoom(Math.min(8, Math.max(1, zoom * (event.deltaY < 0 ? 1.25 : 0.8))));
  }
  const marks = $derived(ticks(scale));
  const coats = $derived((page.plan?.tasks ?? []).filter((t) => t.kind === "coat" && !t.locked));
  const order = $derived(Object.fromEntries(coats.map((t, i) => [t.key, i + 1])));
  const wanted = $derived((partId: string) => {
    const layers = page.facts.layers.filter((l) => l.part_id === partId);
    return { um: layers.reduce((s, l) => s + (l.target_um ?? 0), 0), tol: layers.reduce((s, l) => s + l.tol_um, 0) };
  });
  const scaleUm = $derived(Math.max(...page.facts.parts.map((p) => wanted(p.id).um + wanted(p.id).tol)));
  const rank = $derived(new Map((page.plan?.tasks ?? []).toReversed().map((t) => [t.part_id, t.start_at])));
  /** What a part is doing now is looked up in the spans, so a state turns with the clock, not with the next answer. */
  const current = $derived(
    page.view.parts.map((p) => {
      const part = page.state.parts.find((s) => s.part_id === p.part_id);
      if (!part) return p;
      const here = currentView(part, now);
      return { ...p, state: here.state, word: here.word, until_at: here.until, next_state: here.next };
    }),
  );
  const lanes = $derived(current.toSorted((a, b) => (rank.get(a.part_id) ?? Infinity) - (rank.get(b.part_id) ?? Infinity)));
  const name = (id: string): string => page.facts.parts.find((p) => p.id === id)?.name ?? "";

  /** A film counts its thickness, anything else its coats. */
  function built(p: PartView): { on: string; of: string; said: string } {
    const want = wanted(p.part_id).um;
    if (want > 0) return { on: bare("um", p.dry_um), of: bare("um", want), said: say.strip.of(bare("um", p.dry_um), um(want)) };
    const coats = page.facts.layers.filter((l) => l.part_id === p.part_id).reduce((s, l) => s + l.coats, 0);
    const on = page.state.parts.find((s) => s.part_id === p.part_id)?.films.length ?? 0;
    return { on: String(on), of: say.strip.coats(coats), said: say.strip.ofCoats(on, coats) };
  }
  function consequence(p: PartView): string {
    const task = p.next_task;
    if (p.state === "wet" && task === null && p.until_at === null) return say.common.coatInProgress;
    const by = actBy(task ?? undefined);
    if (task?.kind === "coat" && p.state === "closing" && by)
      return by > now ? say.strip.leftToRecoat(duration(by - now)) : say.today.due(say.common.startInline, when(by, now));
    if (task?.kind === "coat" && p.state === "open" && by) return say.today.by(say.common.startInline, when(by, now));
    if (task?.must.length) return say.strip.onHoldChecksOpen;
    if (task?.before.length) return say.strip.stepBeforeIt(task.before.length);
    if (p.state === "flash" && p.until_at)
      return say.strip.then(duration(p.until_at - now), p.next_state === "open" ? say.common.recoat : say.common.next);
    if (p.state === "over_age") return say.strip.sandAndWipeThenRecoat;
    if (task?.kind === "unmask" && task.opens_at)
      return task.opens_at > now ? say.strip.unmask(when(task.opens_at, now)) : say.strip.readyToUnmask;
    if (p.state === "wet" && p.until_at) return say.strip.doNotTouchUntil(when(p.until_at, now));
    if (p.next_gate?.late_at) return `${gateName(p.next_gate.name)} ${when(p.next_gate.late_at, now)}`;
    return p.state === null ? say.strip.firstCoatAnyTime : "";
  }
  const area = $derived.by(() => {
    const top = 10;
    const yy = (m: number): number => 34 - (Math.max(0, Math.min(m, top)) / top) * 30;
    const pts = page.ribbon.filter((r) => r.at >= scale.from && r.at <= scale.to);
    return { pts, yy, line: pts.map((r) => `${scale.x(r.at).toFixed(1)},${yy(r.margin_k).toFixed(1)}`).join(" ") };
  });
</script>

<figure bind:clientWidth={box} aria-label={say.strip.schedulePartByPart} onwheel={wheel}>
  <svg class="axis" width={box} height="30" aria-hidden="true">
    <g transform={`translate(${HEAD} 0)`}>
      {#each marks as t (t)}
        {#if Math.abs(scale.x(t) - scale.x(now)) > 46 && limits.every((l) => Math.abs(scale.x(t) - scale.x(l.at)) > 72)}
          <text x={scale.x(t)} y="20" text-anchor="middle" font-size="14"
            >{scale.pieces.length > 1 && t > scale.pieces[scale.pieces.length - 1]!.from ? when(t, now).split(" ")[0] : clockTime(t)}</text
          >
        {/if}
      {/each}
      {#each limits as l, i (l.name)}
        {#if Math.abs(scale.x(l.at) - scale.x(now)) > 84 && limits.slice(0, i).every((o) => Math.abs(scale.x(o.at) - scale.x(l.at)) > 100)}
          <rect x={scale.x(l.at) - 47} y="3" width="94" height="24" fill="var(--lift)" stroke="var(--ink)" stroke-width="1.6" />
          <text class="limit" x={scale.x(l.at)} y="20" text-anchor="middle" font-size="14">{l.name} {clockTime(l.at)}</text>
        {/if}
      {/each}
      <rect x={scale.x(now) - 28} y="2" width="56" height="26" fill="var(--ink)" />
      <text class="nowbox" x={scale.x(now)} y="21" text-anchor="middle" font-size="16">{clockTime(now)}</text>
    </g>
  </svg>
  <ol>
    {#each lanes as p (p.part_id)}
      {@const w = wanted(p.part_id)}
      {@const part = page.state.parts.find((s) => s.part_id === p.part_id)}
      <li class:picked={picked === p.part_id} aria-label={`${name(p.part_id)}, ${built(p).said}, ${p.word}, ${consequence(p)}`}>
        <button class="lanehead" onclick={() => pick?.(p.part_id)}>
          <span class="name">{name(p.part_id)}</span>
          <span class="build"><b>{built(p).on}</b> {say.strip.of2(built(p).of)}</span>
          <StateTag state={p.state} word={p.word} />
          <span class="so">{consequence(p)}</span>
        </button>
        <svg {width} height={laneHeight} aria-hidden="true">
          {#each marks as t (t)}<line x1={scale.x(t)} x2={scale.x(t)} y1="0" y2={laneHeight} stroke="var(--rule)" />{/each}
          <Lane
            films={part?.films ?? []}
            planned={(page.plan?.tasks ?? []).filter((t) => t.part_id === p.part_id)}
            facts={page.facts}
            target_um={w.um}
            tol_um={w.tol}
            scale_um={scaleUm}
            {scale}
            {width}
            height={laneHeight}
            {now}
            {order}
            picked={task}
            gates={(part?.gates ?? [])
              .filter((g) => ["handle", "water", "use"].includes(g.name) && g.likely_at)
              .map((g) => ({ name: gateName(g.name), at: g.likely_at! }))}
          />
          {#each scale.tears as x, i (i)}
            <polyline
              points={Array.from({ length: 11 }, (_, i) => `${x - 4 + (i % 2 ? -3 : 3)},${(laneHeight * i) / 10}`).join(" ")}
              fill="none"
              stroke="var(--edge)"
              stroke-width="1.2"
            />
            <polyline
              points={Array.from({ length: 11 }, (_, i) => `${x + 4 + (i % 2 ? -3 : 3)},${(laneHeight * i) / 10}`).join(" ")}
              fill="none"
              stroke="var(--edge)"
              stroke-width="1.2"
            />
          {/each}
          {#if closing && closing < scale.to}<rect
              x={scale.x(closing)}
              y="0"
              width={Math.max(0, width - scale.x(closing))}
              height={laneHeight}
              fill="var(--edge)"
              opacity="0.16"
            />{/if}
          {#each limits as l (l.name)}<line
              x1={scale.x(l.at)}
              x2={scale.x(l.at)}
              y1="0"
              y2={laneHeight}
              stroke="var(--ink)"
              stroke-width="1.4"
              stroke-dasharray="2 4"
            />{/each}
          {#if drag?.moved && drag.part === p.part_id}
            {@const at = dragAt(drag)}
            <line x1={scale.x(at)} x2={scale.x(at)} y1="0" y2={laneHeight} stroke="var(--ink)" stroke-width="2" />
            <text class="halo" x={scale.x(at) + 6} y={laneHeight / 2} font-size="15">{clockTime(at)}</text>
          {/if}
          <line x1={scale.x(now)} x2={scale.x(now)} y1="0" y2={laneHeight} stroke="var(--ink)" stroke-width="3" />
        </svg>
        {#if pickTask}
          {#each handles.filter((h) => h.part === p.part_id) as h (h.key)}
            <button
              class="handle"
              class:on={task === h.key}
              style={`left: ${HEAD + h.x - 13}px; height: ${laneHeight}px`}
              aria-pressed={task === h.key}
              aria-label={say.strip.planned(clockTime(h.at), h.label)}
              onpointerdown={(e) => grab(e, h.key, h.part)}
              onpointermove={pull}
              onpointerup={let_go}
              onpointercancel={() => (drag = null)}
              onclick={() => pickTask(h.key)}
            ></button>
          {/each}
        {/if}
      </li>
    {/each}
  </ol>
  {#if page.stops.length}
    <div class="stoprow">
      <p><b>{say.strip.safeToStop}</b><span>{say.strip.safeUntilYouOpenAgain}</span></p>
      <svg
        {width}
        height="30"
        role="img"
        aria-label={stops.map((s) => `${clockTime(s.at)} ${s.safe ? say.common.safe : say.strip.notSafe(s.why)}`).join("; ")}
      >
        {#each stops as s, i (i)}
          <path d={`M${s.x} 0v5`} stroke="var(--ink)" stroke-width="1.3" />
          <rect
            x={s.x - 8}
            y="6"
            width="16"
            height="16"
            fill={s.safe ? "var(--ink)" : "var(--field)"}
            stroke="var(--ink)"
            stroke-width="1.8"
          />
          {#if s.safe}<path d={`M${s.x - 4.5} 14l3.4 4 6-8`} fill="none" stroke="var(--on-ink)" stroke-width="2.2" />{:else}<path
              d={`M${s.x - 6} 20l12-12`}
              stroke="var(--ink)"
              stroke-width="1.8"
            />{/if}
        {/each}
      </svg>
    </div>
  {/if}
  <div class="ribbon">
    <p>
      <b>{say.strip.surfaceAboveDewPoint}</b><span
        >{say.strip.nowStopAt(
          kelvin(page.air.margin.value),
          kelvin(page.air.least_margin_k),
          page.air.source === "default" ? say.common.assumed : "",
        )}</span
      >
    </p>
    <svg {width} height="36" aria-label={say.strip.surfaceAboveDewPointNow(kelvin(page.air.margin.value))} role="img">
      {#if area.pts.length > 1}
        <polygon points={`${scale.x(area.pts[0]!.at)},36 ${area.line} ${scale.x(area.pts[area.pts.length - 1]!.at)},36`} fill="var(--b2)" />
        {#each area.pts.slice(1) as r, i (i)}
          {#if r.margin_k < page.air.least_margin_k}<rect
              x={scale.x(area.pts[i]!.at)}
              y="0"
              width={Math.max(0, scale.x(r.at) - scale.x(area.pts[i]!.at))}
              height="36"
              fill="url(#p-nogo)"
            />{/if}
        {/each}
        <polyline points={area.line} fill="none" stroke="var(--ink)" stroke-width="1.6" />
      {/if}
      <line
        x1="0"
        x2={width}
        y1={area.yy(page.air.least_margin_k)}
        y2={area.yy(page.air.least_margin_k)}
        stroke="var(--ink)"
        stroke-dasharray="2 3"
      />
      <line x1={scale.x(now)} x2={scale.x(now)} y1="0" y2="36" stroke="var(--ink)" stroke-width="3" />
    </svg>
  </div>
  <figcaption class="sr">{say.strip.solidDoneDashedPlanned(dayName(now), clockTime(now))}</figcaption>
</figure>

<style>
  figure {
    width: 100%;
    overflow: hidden;
  }
  ol {
    list-style: none;
  }
  li {
    position: relative;
    display: flex;
    border-top: 2px solid var(--edge);
    background: var(--field);
  }
  li.picked {
    background: var(--lift);
    box-shadow: inset 10px 0 var(--ink);
  }
  .lanehead {
    width: 200px;
    flex: none;
    display: grid;
    grid-template-columns: 1fr auto;
    gap: 2px 8px;
    align-content: center;
    padding: 4px 12px 4px 24px;
    text-align: left;
    font: inherit;
    color: inherit;
    background: var(--ground);
    border: 0;
    cursor: pointer;
  }
  li.picked .lanehead {
    background: transparent;
  }
  .name {
    font-stretch: 70%;
    font-weight: 780;
    font-size: 20px;
    line-height: 1;
  }
  .build {
    font-size: 13px;
    white-space: nowrap;
    font-stretch: 84%;
  }
  .build b {
    font-size: 17px;
    font-stretch: 66%;
    font-weight: 800;
  }
  .lanehead :global(.tag),
  .so {
    grid-column: 1 / -1;
  }
  .so {
    font-size: 13.5px;
    color: var(--ink2);
    line-height: 1.15;
  }
  .handle {
    position: absolute;
    top: 0;
    width: 26px;
    padding: 0;
    border: 0;
    background: transparent;
    cursor: ew-resize;
    touch-action: none;
  }
  .handle:focus-visible {
    outline-offset: -3px;
  }
  .stoprow {
    display: flex;
    border-top: 2px solid var(--edge);
  }
  .stoprow p {
    width: 200px;
    flex: none;
    padding: 2px 8px 0 24px;
    font-size: 13px;
    line-height: 1.2;
    font-stretch: 92%;
  }
  .stoprow span {
    display: block;
    color: var(--ink2);
  }
  .axis .limit {
    font-stretch: 66%;
    font-weight: 800;
    fill: var(--ink);
  }
  .nowbox {
    fill: var(--on-ink);
    font-stretch: 66%;
    font-weight: 800;
  }
  .axis text {
    font-weight: 600;
    fill: var(--ink2);
  }
  .axis .nowbox {
    fill: var(--on-ink);
  }
  .ribbon {
    display: flex;
    border-top: 2px solid var(--edge);
  }
  .ribbon p {
    width: 200px;
    flex: none;
    padding: 2px 8px 0 24px;
    font-size: 13px;
    line-height: 1.25;
    font-stretch: 92%;
  }
  .ribbon span {
    display: block;
    color: var(--ink2);
  }
</style>
