<script lang="ts">
  /** A look at parts in service, one at a time: how it is, what was seen, with pictures.  Nothing is taken as "as new". */
  import type { JobPage } from "../../api/client";
  import { partName } from "../../lib/actions";
  import { opened } from "../../lib/opened";
  import { outbox } from "../../lib/outbox.svelte";
  import { ratings } from "../../lib/ratings";
  import { say } from "../../words";

  /** `care`: the check this look is; without one it is a look at the whole part. */
  type Props = { page: JobPage; parts: string[]; care?: { key: string; what: string } | null; done: () => void };
  let { page, parts, care = null, done }: Props = $props();
  const RATINGS = ratings();
  let n = $state(0);
  let rating = $state<number | null>(null);
  let note = $state("");
  let files = $state<FileList | null>(null);
  let refusal = $state("");
  let busy = $state(false);
  const part = $derived(parts[n]!);

  function next(): void {
    rating = files = null;
    note = refusal = "";
    if (n + 1 < parts.length) n += 1;
    else done();
  }
  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (rating === null) return void (refusal = say.service.sayHowItIs);
    busy = true;
    const kept = await outbox.keep(files);
    busy = false;
    if (kept.refusal) return void (refusal = kept.refusal);
    const body = {
      part_ids: [part],
      ...(care && { care_key: care.key }),
      ratings: [{ scale_id: "look", value: rating }],
      note: note.trim(),
      photo_ids: kept.ids,
    };
    await outbox.add(page.head.id, [{ kind: "inspected", body }], `${partName(page, part)}: ${RATINGS[rating]}`);
    next();
  }
</script>

<form class="look" onsubmit={save} novalidate aria-label={care?.what ?? say.service.inspection} {@attach opened(done)}>
  <h3>{partName(page, part)}{parts.length > 1 ? say.service.nth(n + 1, parts.length) : ""}</h3>
  {#if care}<p>{care.what}</p>{/if}
  <div class="row" role="group" aria-label={say.common.condition}>
    {#each [5, 4, 3, 2, 1, 0] as r (r)}<button
        type="button"
        class="btn small"
        class:go={rating === r}
        aria-pressed={rating === r}
        onclick={() => (rating = r)}>{r}, {RATINGS[r]}</button
      >{/each}
  </div>
  <label>{say.service.findings} <input bind:value={note} maxlength="400" /></label>
  {#key n}<label>{say.taps.photo} <input type="file" accept="image/*" capture="environment" multiple bind:files /></label>{/key}
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  <div class="row">
    <button class="btn small go" disabled={busy}>{say.service.saveInspection}</button>
    {#if parts.length > 1}<button type="button" class="btn small" onclick={next}>{say.service.skip}</button>{/if}
    <button type="button" class="btn small" onclick={done}>{say.common.cancel}</button>
  </div>
</form>

<style>
  .look {
    display: grid;
    gap: 10px;
    border: 2px solid var(--ink);
    padding: 12px;
  }
  .row {
    display: flex;
    gap: 6px;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
