<script lang="ts">
  /** Closing a mix asks what is left: a tap on how full the cup is, or what cup or scale show.  The film follows from it. */
  import type { JobPage, Schemas } from "../../api/client";
  import { bare, entered, show, unit, volume } from "../../lib/format";
  import { opened } from "../../lib/opened";
  import { outbox } from "../../lib/outbox.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage; batch: Schemas["Batch"]; gelled: boolean; done: () => void };
  let { page, batch, gelled, done }: Props = $props();
  type Why = "used" | "died" | "thrown";
  // The form is made anew for each batch: what it is by then is where the choice starts.
  // svelte-ignore state_referenced_locally
  let why = $state<Why>(gelled ? "died" : "used");
  let left = $state("");
  let scale = $state("");
  let refusal = $state("");
  const LEVELS: [number, string][] = [
    [0.125, "⅛"],
    [0.25, "¼"],
    [0.5, "½"],
    [0.75, "¾"],
  ];
  const WHYS: [Why, string][] = [
    ["used", say.log.usedUp],
    ["died", say.log.wentOff],
    ["thrown", say.log.thrownAway],
  ];

  async function close(seen: { left_ml?: number; left_g?: number }): Promise<void> {
    const said = seen.left_ml === undefined ? say.cans.closed : say.cans.closedWith(volume(seen.left_ml));
    await outbox.add(page.head.id, [{ kind: "batch_closed", body: { batch_id: batch.batch_id, why, ...seen } }], said);
    done();
  }
  function typed(event: SubmitEvent): void {
    event.preventDefault();
    if (scale.trim()) {
      const g = entered("g", scale);
      if (!(g >= 0 && g <= 1e6)) return void (refusal = say.cans.leftEntered(scale, unit("g"), bare("g", 1e6, 0)));
      return void close({ left_g: g });
    }
    const ml = entered("ml", left);
    if (!(ml >= 0 && ml <= batch.total_ml)) return void (refusal = say.cans.leftEntered(left, unit("ml"), show("ml", batch.total_ml)));
    void close({ left_ml: ml });
  }
</script>

<form onsubmit={typed} novalidate {@attach opened(done)}>
  <h3>{say.cans.closeTitle}</h3>
  <div class="levels">
    <button type="button" class="btn" onclick={() => close({ left_ml: 0 })}>{say.cans.empty}</button>
    {#each LEVELS as [share, word] (share)}
      <button
        type="button"
        class="btn"
        aria-label={say.cans.ofTheCup(word)}
        onclick={() => close({ left_ml: Math.round(share * batch.total_ml * 10) / 10 })}
        ><b>{word}</b><small>{volume(share * batch.total_ml)}</small></button
      >
    {/each}
  </div>
  <div class="two">
    <label>{say.cans.left(unit("ml"))} <input inputmode="decimal" bind:value={left} disabled={Boolean(scale.trim())} /></label>
    <label>{say.cans.scaleShows(unit("g"))} <input inputmode="decimal" bind:value={scale} disabled={Boolean(left.trim())} /></label>
  </div>
  <fieldset>
    <legend>{say.cans.why}</legend>
    {#each WHYS as [value, word] (value)}<label class="pick"><input type="radio" name="why" {value} bind:group={why} /> {word}</label
      >{/each}
  </fieldset>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <div class="row">
    <button class="btn small go" disabled={!left.trim() && !scale.trim()}>{say.mix.closeBatch}</button>
    <button type="button" class="btn small" onclick={() => close({})}>{say.cans.notLooked}</button>
    <button type="button" class="btn small" onclick={done}>{say.common.cancel}</button>
  </div>
</form>

<style>
  form {
    display: grid;
    gap: 10px;
  }
  .levels {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(84px, 1fr));
    gap: 6px;
  }
  .levels .btn {
    min-height: 60px;
    padding: 4px;
    display: grid;
    justify-items: center;
    align-content: center;
  }
  .levels b {
    font-size: 20px;
    line-height: 1;
  }
  .two {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
  }
  legend {
    font-weight: 640;
    padding: 0;
  }
  .pick {
    display: flex;
    gap: 6px;
    align-items: center;
    min-height: 44px;
  }
  .pick input {
    flex: none;
    width: 22px;
    height: 22px;
    min-height: 0;
    margin: 0;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
