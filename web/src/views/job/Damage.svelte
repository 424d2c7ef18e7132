<script lang="ts">
  /** Damage that was there before any work: a note, and a pin on a picture. */
  import { Answer } from "../../lib/answer.svelte";
  import { api, type JobPage, type Schemas } from "../../api/client";
  import { clockTime, date } from "../../lib/format";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";

  import Pinned from "./Pinned.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const found = new Answer<Schemas["DamageOut"][]>();
  const rows = $derived(found.data ?? []);
  let refusal = $state("");
  /** Id of the picture the pin is on. */
  let photo = $state("");
  let pin = $state({ across: 50, down: 50 });
  let text = $state("");
  let partId = $state("");
  let sent = $state(0);
  let busy = $state(false);
  const parts = $derived(page.facts.parts.filter((p) => !p.retired));
  $effect(() => {
    void page.state.through_seq;
    void found.ask(() => api.GET("/api/jobs/{job_id}/damage", { params: { path: { job_id: page.head.id } } }));
  });

  async function send(event: Event & { currentTarget: HTMLInputElement }): Promise<void> {
    if (!event.currentTarget.files?.length) return;
    busy = true;
    const { ids, refusal: why } = await outbox.keep(event.currentTarget.files);
    busy = false;
    refusal = why;
    photo = ids[0] ?? photo;
  }
  function put(event: MouseEvent & { currentTarget: HTMLButtonElement }): void {
    if (event.detail === 0) return; // a key, not a pointer: the two sliders are for that
    const box = event.currentTarget.getBoundingClientRect();
    pin = {
      across: Math.round(((event.clientX - box.left) / box.width) * 100),
      down: Math.round(((event.clientY - box.top) / box.height) * 100),
    };
  }
  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (!text.trim()) return void (refusal = say.damage.describeTheDamage);
    const part_id = partId || parts[0]!.id;
    const where = photo ? { photo_id: photo, across_frac: pin.across / 100, down_frac: pin.down / 100 } : {};
    await outbox.add(page.head.id, [{ kind: "damage_found", body: { part_id, text: text.trim(), ...where } }], say.damage.saved);
    [text, photo, refusal] = ["", "", ""];
    sent += 1;
  }
</script>

<section class="damage" aria-label={say.common.damageFoundBeforeWork}>
  <h2>{say.common.damageFoundBeforeWork}</h2>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <ul>
    {#each rows as r (r.entry_id)}
      <li>
        {#if r.photo_id}<Pinned id={r.photo_id} across={r.across_frac ?? 0.5} down={r.down_frac ?? 0.5} alt={`${r.part}: ${r.text}`} />{/if}
        <p><b>{r.part}.</b> {r.text}</p>
        <p class="mute">{date(r.at)}, {clockTime(r.at)}{r.before_work ? "" : say.common.addedAfterWorkHadStarted}</p>
      </li>
    {:else}<li class="mute">{say.damage.noDamageRecordedLookIt}</li>{/each}
  </ul>
  {#if session.mayWrite}
    <form onsubmit={keep}>
      <label
        >{say.common.partLabel}
        <select value={partId || parts[0]?.id} onchange={(e) => (partId = e.currentTarget.value)}
          >{#each parts as p (p.id)}<option value={p.id}>{p.name}</option>{/each}</select
        ></label
      >
      <label class="grow"
        >{say.damage.descriptionOfTheDamage}
        <input bind:value={text} placeholder={say.common.creaseAtTheLeftCorner} maxlength="400" /></label
      >
      {#key sent}<label>{say.damage.photo} <input type="file" accept="image/jpeg,image/png,image/webp" onchange={send} /></label>{/key}
      <button class="btn small" disabled={busy}>{busy ? say.damage.sendingThePhoto : say.damage.saveDamage}</button>
      {#if photo}
        <div class="place">
          <button type="button" class="on" onclick={put} aria-label={say.damage.photoTapWhereTheDamage}
            ><Pinned id={photo} across={pin.across / 100} down={pin.down / 100} alt={say.damage.asItIsSaved} /></button
          >
          <label>{say.damage.across} <input type="range" min="0" max="100" bind:value={pin.across} /></label>
          <label>{say.damage.down} <input type="range" min="0" max="100" bind:value={pin.down} /></label>
        </div>
      {/if}
    </form>
    <p class="mute">{say.damage.locationTimeAndCameraAre}</p>
  {/if}
</section>

<style>
  .damage {
    display: grid;
    gap: 10px;
    border-top: 2px solid var(--ink);
    padding-top: 10px;
  }
  ul {
    list-style: none;
    margin: 0;
    padding: 0;
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(220px, 1fr));
    gap: 14px;
  }
  form {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .grow {
    flex: 1;
    min-width: 220px;
  }
  .place {
    flex-basis: 100%;
    display: grid;
    grid-template-columns: minmax(0, 420px) 1fr;
    gap: 10px 16px;
    align-items: start;
  }
  .on {
    padding: 0;
    border: 0;
    background: none;
    grid-row: span 3;
    cursor: crosshair;
  }
  input[type="range"] {
    width: 100%;
    min-height: 44px;
    accent-color: var(--ink);
  }
  @media (max-width: 700px) {
    .place {
      grid-template-columns: 1fr;
    }
  }
</style>
