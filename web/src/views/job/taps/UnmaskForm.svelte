<script lang="ts">
  /** Tape off the ticked parts: how it was parted and how the edge came out. */
  import type { JobPage } from "../../../api/client";
  import { outbox } from "../../../lib/outbox.svelte";
  import { say } from "../../../words";
  import TapForm from "./TapForm.svelte";

  type Props = { page: JobPage; parts: string[]; done: () => void };
  let { page, parts, done }: Props = $props();
  let cut = $state<"" | "pulled" | "knife" | "wire">("");
  const CUTS = [
    ["pulled", say.taps.pulled],
    ["knife", say.taps.knife],
    ["wire", say.taps.wire],
  ] as const;
  const RESULTS = [
    ["clean", say.taps.edgeClean],
    ["ragged", say.taps.edgeRagged],
    ["lifted", say.taps.edgeLifted],
  ] as const;
  async function save(result: string, word: string): Promise<void> {
    const body = { part_ids: parts, result, cut };
    await outbox.add(page.head.id, [{ kind: "unmasked", body }], `${say.common.maskingRemoved}: ${word}`);
    done();
  }
</script>

<TapForm {done}>
  <div class="row" role="group" aria-label={say.taps.howParted}>
    <b>{say.taps.howParted}</b>
    {#each CUTS as [id, word] (id)}<button
        type="button"
        class="btn small"
        class:go={cut === id}
        aria-pressed={cut === id}
        onclick={() => (cut = cut === id ? "" : id)}>{word}</button
      >{/each}
  </div>
  <div class="row" role="group" aria-label={say.taps.theEdgeIs}>
    <b>{say.taps.theEdgeIs}</b>
    {#each RESULTS as [id, word] (id)}<button type="button" class="btn" onclick={() => save(id, word)}>{word}</button>{/each}
  </div>
</TapForm>

<style>
  .row b {
    flex: 0 0 120px;
    align-self: center;
  }
</style>
