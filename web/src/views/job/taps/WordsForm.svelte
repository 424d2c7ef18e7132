<script lang="ts">
  /** A defect or a note, with pictures from the camera: about the parts that are ticked. */
  import type { JobPage } from "../../../api/client";
  import { outbox } from "../../../lib/outbox.svelte";
  import { say } from "../../../words";
  import TapForm from "./TapForm.svelte";

  type Props = { page: JobPage; parts: string[]; kind: "defect" | "note"; done: () => void };
  let { page, parts, kind, done }: Props = $props();
  let text = $state("");
  let files = $state<FileList | null>(null);
  let refusal = $state("");
  let busy = $state(false);
  const topCoat = (id: string): string | null => page.state.parts.find((p) => p.part_id === id)?.films.at(-1)?.coat_id ?? null;

  async function save(event?: SubmitEvent): Promise<void> {
    event?.preventDefault();
    if (!text.trim() && !files?.length) return void (refusal = say.log.enterADescriptionFirst);
    busy = true;
    const sent = await outbox.keep(files);
    busy = false;
    if (sent.refusal) return void (refusal = sent.refusal);
    const words = text.trim() || (kind === "defect" ? say.taps.seePicture : say.taps.picture);
    const facts = parts.map((part_id) => ({
      kind,
      body:
        kind === "defect"
          ? { part_id, coat_id: topCoat(part_id), type: words, photo_ids: sent.ids }
          : { part_id, coat_id: topCoat(part_id), text: words, photo_ids: sent.ids },
    }));
    await outbox.add(page.head.id, facts, kind === "defect" ? say.log.defectSaved : say.log.noteSaved);
    done();
  }
  function pick(word: string): void {
    text = word;
    void save();
  }
</script>

<TapForm {save} {done} {refusal}>
  <div class="row">
    {#each kind === "defect" ? say.taps.defects : say.taps.notes as word (word)}<button
        type="button"
        class="btn small"
        disabled={busy}
        onclick={() => pick(word)}>{word}</button
      >{/each}
  </div>
  <div class="row">
    <label>{kind === "defect" ? say.log.descriptionOfTheDefect : say.common.note} <input bind:value={text} maxlength="400" /></label>
    <label>{say.taps.photo} <input type="file" accept="image/*" capture="environment" multiple bind:files /></label>
    <button class="btn small go" disabled={busy}>{say.common.save}</button>
  </div>
</TapForm>
