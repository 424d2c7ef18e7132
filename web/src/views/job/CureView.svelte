<script lang="ts">
  /** Cure: what each part may bear when, from the logged air; a thumb beats the formula. */
  import type { JobPage } from "../../api/client";
  import { partName } from "../../lib/actions";
  import { cards } from "../../lib/cards";
  import { serverClock } from "../../lib/clock.svelte";
  import { duration, kelvin, temp, when } from "../../lib/format";
  import { GATES, gateName } from "../../lib/gates";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import StateTag from "../../ui/StateTag.svelte";
  import Undo from "../../ui/Undo.svelte";
  import WhyNote from "../../ui/WhyNote.svelte";
  import { pieceScale, ticks } from "../../figures/scale";
  import { currentView } from "../../lib/pick";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  let box = $state(900);
  /** Beside the name of the part, or under it on a phone. */
  const width = $derived(box <= 700 ? box - 32 : Math.max(300, box - 250));
  const now = $derived(serverClock.now);
  const parts = $derived(page.state.parts.toSorted((a, b) => Number(b.gates.length > 0) - Number(a.gates.length > 0)));
  const ends = $derived(parts.flatMap((p) => p.gates.map((g) => g.late_at ?? 0)));
  const start = $derived(Math.min(now - 3600, ...parts.flatMap((p) => p.films.slice(-1).map((f) => f.done_at ?? now))));
  const scale = $derived(
    pieceScale(
      [
        [start, Math.max(now, start) + 86400, 0.5],
        [Math.max(now, start) + 86400, Math.max(now + 2 * 86400, ...ends) + 43200, 0.5],
      ],
      width,
    ),
  );
  const marks = $derived(ticks(scale));
  /** The times whose words fit: none within so many pixels of the one before, nor over the edge. */
  function apart(times: number[], room: number): number[] {
    let last = -Infinity;
    return times.filter((t) => {
      const x = scale.x(t);
      if (x - last < room || x > width - room + 20) return false;
      last = x;
      return true;
    });
  }
  type Gate = JobPage["state"]["parts"][number]["gates"][number];
  const sorted = (gates: Gate[]): Gate[] => gates.toSorted((a, b) => GATES.indexOf(a.name) - GATES.indexOf(b.name));
  const check = (partId: string, gate: string, passed: boolean): Promise<string[]> =>
    outbox.add(
      page.head.id,
      [{ kind: "gate_checked", body: { part_id: partId, gate, passed } }],
      `${partName(page, partId)}, ${gateName(gate)}: ${passed ? say.common.pass : say.common.fail}`,
    );
  function said(g: Gate): string {
    if (g.failed_at) return say.cure.failedCheckAgain(when(g.failed_at, now));
    if (g.likely_at === null || g.likely_at === undefined) return say.cure.willNotCureAtThis;
    if (g.by === "checked") return say.cure.checked(when(g.likely_at, now));
    if ((g.late_at ?? Infinity) <= now) return say.cure.since(when(g.late_at!, now));
    return `${when(g.late_at ?? g.likely_at, now)}`;
  }
</script>

<div class="cure" bind:clientWidth={box}>
  {#each parts as p (p.part_id)}
    {@const shown = currentView(p, now)}
    <section aria-label={partName(page, p.part_id)} class:bare={p.gates.length === 0}>
      <div class="head">
        <h2>{partName(page, p.part_id)}</h2>
        <StateTag state={shown.state} word={shown.word} />
        {#if p.gates.length === 0}<p class="mute">{p.films.length ? say.cure.startsAfterTheLastCoat : say.cure.notCoatedYet}</p>{/if}
      </div>
      {#if p.gates.length}
        <div class="gates">
          <svg {width} height="58" aria-hidden="true">
            {#each marks as t (t)}<line x1={scale.x(t)} x2={scale.x(t)} y1="0" y2="58" stroke="var(--rule)" />{/each}
            {#each apart(marks, 86) as t (t)}<text x={scale.x(t) + 3} y="56" font-size="12">{when(t, now)}</text>{/each}
            <rect
              x="0"
              y="24"
              width={scale.x(p.gates.find((g) => g.name === "full")?.late_at ?? now)}
              height="14"
              fill="url(#p-curing)"
              stroke="var(--skin-line)"
            />
            {#each sorted(p.gates).filter((g) => g.likely_at) as g (g.name)}
              <line
                x1={scale.x(g.early_at ?? g.likely_at!)}
                x2={scale.x(g.late_at ?? g.likely_at!)}
                y1="20"
                y2="20"
                stroke="var(--ink)"
                stroke-width="3"
              />
              <line x1={scale.x(g.likely_at!)} x2={scale.x(g.likely_at!)} y1="14" y2="38" stroke="var(--ink)" stroke-width="1.4" />
            {/each}
            {#each apart( p.gates.flatMap((g) => g.likely_at ?? []).toSorted((a, b) => a - b), 110 ) as t (t)}<text
                class="halo"
                x={scale.x(t) + 2}
                y="12"
                font-size="12.5">{gateName(p.gates.find((g) => g.likely_at === t)!.name)}</text
              >{/each}
            <line x1={scale.x(now)} x2={scale.x(now)} y1="0" y2="58" stroke="var(--ink)" stroke-width="3" />
          </svg>
          <table class="cards" {@attach cards}>
            <thead
              ><tr
                ><th>{say.cure.stage}</th><th>{say.cure.latest}</th><th>{say.cure.likely}</th><th>{say.cure.earliest}</th><th
                  >{say.cure.assumedAir}</th
                ><th></th></tr
              ></thead
            >
            <tbody>
              {#each sorted(p.gates) as g (g.name)}
                <tr class:past={(g.late_at ?? Infinity) <= now}>
                  <td><b>{gateName(g.name)}</b></td><td><b>{said(g)}</b>{g.closes_at ? say.cure.to(when(g.closes_at, now)) : ""}</td>
                  <td>{g.likely_at ? when(g.likely_at, now) : "—"}</td><td>{g.early_at ? when(g.early_at, now) : "—"}</td>
                  <td>{g.assumed_s > 60 ? say.cure.withoutAReading(duration(g.assumed_s)) : say.common.none}</td>
                  <td class="do">
                    {#if session.mayWrite && g.by !== "checked" && ["touch", "handle", "sand"].includes(g.name)}
                      <button onclick={() => check(p.part_id, g.name, true)}>{say.common.passButton}</button><button
                        onclick={() => check(p.part_id, g.name, false)}>{say.cure.notReady}</button
                      >
                    {/if}
                    <WhyNote why={g.why} />
                  </td>
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
      {/if}
    </section>
  {/each}
  <Undo jobId={page.head.id} />
  <p class="foot mute">
    {say.cure.timesFollowTheReadingsAnd(page.air.source === "default" ? temp(page.air.air_degc) : say.cure.temperature, kelvin(2))}
  </p>
</div>

<style>
  .cure {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    align-content: start;
  }
  section {
    display: grid;
    grid-template-columns: 210px 1fr;
    border-bottom: 2px solid var(--edge);
    padding: 10px 24px;
  }
  section.bare {
    display: block;
    padding: 6px 24px;
  }
  section.bare .head {
    display: grid;
    grid-template-columns: 186px 220px 1fr;
    align-items: center;
  }
  .head {
    display: grid;
    gap: 6px;
    align-content: start;
  }
  .gates {
    min-width: 0;
    overflow-x: auto;
  }
  table {
    width: 100%;
    font-size: 14px;
    margin-top: 4px;
  }
  th,
  td {
    padding: 3px 10px 3px 0;
    border-top: 1px solid var(--rule);
  }
  .past td {
    color: var(--ink2);
  }
  .do {
    display: flex;
    gap: 10px;
    align-items: center;
    justify-content: flex-end;
  }
  .do button {
    font: inherit;
    background: none;
    border: 1.5px solid var(--ink);
    min-height: 32px;
    padding: 0 8px;
    cursor: pointer;
    color: var(--ink);
  }
  .foot {
    padding: 12px 24px;
  }
  @media (max-width: 1000px) {
    .do button {
      min-height: 44px;
      padding: 0 16px;
    }
  }
  @media (max-width: 700px) {
    section,
    section.bare .head {
      grid-template-columns: minmax(0, 1fr);
    }
    section {
      padding: 10px 16px;
    }
    td.do {
      display: flex;
      justify-content: flex-start;
      padding-left: 0;
    }
  }
</style>
