<script lang="ts">
  /** Which can it is poured from: remembered from the last pour of it, typed or scanned when it is another. */
  import type { Schemas } from "../../api/client";
  import { opened } from "../../lib/opened";
  import { date } from "../../lib/format";
  import { say } from "../../words";

  type Can = Schemas["CanBody"];
  /** `systems`: what else here has such a component, so that a tin of another one is told by its name. */
  type Props = { can: Can | null; systems?: Schemas["Sheet"][]; now: number; note: (can: Can | null) => void };
  let { can, systems = [], now, note }: Props = $props();
  let of = $state("");
  let editing = $state(false);
  let lot = $state("");
  let expires = $state("");
  let openedOn = $state("");
  let refusal = $state("");
  const day = (text: string): string => date(Date.parse(`${text}T12:00:00Z`) / 1000);
  const isOver = (text: string): boolean => Date.parse(`${text}T23:59:59Z`) / 1000 < now;
  type Detector = { detect: (image: ImageBitmap) => Promise<{ rawValue: string }[]> };
  const Reader = (globalThis as unknown as { BarcodeDetector?: new () => Detector }).BarcodeDetector;

  function edit(): void {
    editing = !editing;
    lot = can?.lot ?? "";
    expires = can?.expires_on ?? "";
    openedOn = can?.opened_on ?? "";
    of = can?.of ?? "";
    refusal = "";
  }
  function keep(event: SubmitEvent): void {
    event.preventDefault();
    if (lot.trim().length > 60) return void (refusal = say.cans.tooLong);
    const product = systems.find((s) => s.id === of)?.name ?? "";
    const said = { lot: lot.trim(), expires_on: expires, opened_on: openedOn, of: product ? of : "", product };
    note(said.lot || said.expires_on || said.opened_on || said.of ? said : null);
    editing = false;
  }
  async function scanned(event: Event): Promise<void> {
    const file = (event.currentTarget as HTMLInputElement).files?.[0];
    if (!file || !Reader) return;
    const [code] = await new Reader().detect(await createImageBitmap(file));
    if (code) lot = code.rawValue.slice(0, 60);
  }
</script>

<div class="can">
  <p>
    {#if can}<b>{say.cans.lotOf(can.lot || "?")}</b>{#if can.product}<b class="over">{can.product}</b>{/if}{#if can.expires_on}<span
          class:over={isOver(can.expires_on)}
          >{isOver(can.expires_on) ? say.cans.expired(day(can.expires_on)) : say.cans.expiresOn(day(can.expires_on))}</span
        >{/if}{#if can.opened_on}<span class="mute">{say.cans.openedOn(day(can.opened_on))}</span>{/if}
    {:else}<span class="mute">{say.cans.noCan}</span>{/if}
    <button type="button" class="btn small" aria-expanded={editing} onclick={edit}>{can ? say.cans.otherCan : say.cans.noteCan}</button>
  </p>
  {#if editing}
    <form onsubmit={keep} novalidate {@attach opened(() => (editing = false))}>
      <label>{say.cans.lot} <input bind:value={lot} autocomplete="off" /></label>
      <label>{say.cans.expires} <input type="date" bind:value={expires} /></label>
      <label>{say.cans.opened} <input type="date" bind:value={openedOn} /></label>
      {#if systems.length}<label
          >{say.mix.ofSystem}
          <select bind:value={of}
            ><option value="">{say.mix.thisSystem}</option>{#each systems as s (s.id)}<option value={s.id}>{s.name}</option>{/each}</select
          ></label
        >{/if}
      {#if Reader}<label class="scan"><input type="file" accept="image/*" capture="environment" onchange={scanned} /></label>{/if}
      <button class="btn small go">{say.common.save}</button>
      <p class="mute">{say.cans.scanHint}</p>
    </form>
    {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {/if}
</div>

<style>
  .can p {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 12px;
    align-items: center;
    font-size: 14.5px;
  }
  .over {
    background: var(--ink);
    color: var(--on-ink);
    padding: 2px 8px;
    font-weight: 700;
  }
  form {
    display: flex;
    flex-wrap: wrap;
    gap: 10px;
    align-items: end;
    padding-top: 6px;
  }
  label {
    font-weight: 640;
    font-size: 13.5px;
    flex: 1 1 150px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
