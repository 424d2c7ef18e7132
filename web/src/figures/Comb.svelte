<script lang="ts">
  /** The wet-film comb: tap the last tooth that came out wet. */
  import { bare, show } from "../lib/format";
  import { say } from "../words";

  type Props = { want_um: number; teeth: number[]; low: number | null; read: (low: number, high: number) => void; dries: string };
  let { want_um, teeth, low, read, dries }: Props = $props();
  const near = $derived.by(() => {
    const at = teeth.findIndex((t) => t >= want_um);
    const from = Math.max(0, Math.min((at < 0 ? teeth.length : at) - 3, teeth.length - 6));
    return teeth.slice(from, from + 6);
  });
  const wanted = $derived(near.map((t) => Math.abs(t - want_um) <= Math.max(want_um * 0.1, (near[1] ?? t) - (near[0] ?? t))));
  const next = (t: number): number => teeth[teeth.indexOf(t) + 1] ?? t;
</script>

<div class="comb">
  <p><b>{say.gauge.lastWettedToothWetFilm}</b><span>{say.gauge.targetWet(show("um", want_um), dries)}</span></p>
  <div class="teeth" role="radiogroup" aria-label={say.gauge.lastWettedToothWetFilm}>
    {#each near as t, i (t)}
      <button
        role="radio"
        aria-checked={low === t}
        class:wanted={wanted[i]}
        style:height={`${74 - i * 4}px`}
        onclick={() => read(t, next(t))}>{bare("um", t)}</button
      >
    {/each}
  </div>
  <svg width="100%" height="20" aria-hidden="true"
    ><rect width="100%" height="20" fill="url(#p-wet)" stroke="var(--skin-line)" stroke-width="1.5" /><path
      d="M6 5H2000"
      stroke="var(--wet-glint)"
      stroke-width="2"
      stroke-dasharray="18 6"
    /></svg
  >
</div>

<style>
  p {
    display: flex;
    justify-content: space-between;
    align-items: baseline;
    padding: 0 16px 4px;
    gap: 8px;
  }
  p b {
    font-stretch: 80%;
    font-weight: 780;
    font-size: 18px;
    white-space: nowrap;
  }
  p span {
    font-size: 14.5px;
    text-align: right;
  }
  .teeth {
    display: grid;
    grid-template-columns: repeat(6, 1fr);
    gap: 4px;
    padding: 0 14px;
    border-top: 12px solid var(--ink);
    align-items: start;
  }
  button {
    font: inherit;
    font-stretch: 62%;
    font-weight: 800;
    font-size: 27px;
    min-height: 56px;
    border: 2.5px solid var(--ink);
    border-top: 0;
    background: var(--lift);
    color: var(--ink);
    cursor: pointer;
    padding: 0;
  }
  button.wanted {
    box-shadow: inset 0 6px var(--edge);
  }
  button[aria-checked="true"] {
    background: var(--ink);
    color: var(--on-ink);
  }
  svg {
    margin-top: -12px;
    position: relative;
    pointer-events: none;
  }
</style>
