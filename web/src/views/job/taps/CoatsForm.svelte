<script lang="ts">
  /** One coat more on this part, or enough: it covers.  The others stay as planned. */
  import type { JobPage } from "../../../api/client";
  import { partName } from "../../../lib/actions";
  import { um } from "../../../lib/format";
  import { outbox } from "../../../lib/outbox.svelte";
  import { say } from "../../../words";
  import TapForm from "./TapForm.svelte";

  type Props = { page: JobPage; parts: string[]; done: () => void };
  let { page, parts, done }: Props = $props();
  let reason = $state("");
  /** The layers of each part that is ticked, with what is on: only the top one and what follows can change. */
  const rows = $derived(
    parts.flatMap((id) => {
      const films = page.state.parts.find((p) => p.part_id === id)?.films ?? [];
      const builds = page.state.parts.find((p) => p.part_id === id)?.builds ?? [];
      const layers = page.facts.layers.filter((l) => l.part_id === id).toSorted((a, b) => a.position - b.position);
      const top = layers.findLastIndex((l) => films.some((f) => f.layer_id === l.id));
      return layers.slice(Math.max(0, top)).map((layer) => ({
        id,
        layer,
        on: films.filter((f) => f.layer_id === layer.id).length,
        build: builds.find((b) => b.layer_id === layer.id),
      }));
    }),
  );
  async function set(row: (typeof rows)[number], coats: number): Promise<void> {
    const body = { part_id: row.id, layer_id: row.layer.id, coats, reason: reason.trim() };
    const name = page.facts.sheets[row.layer.sheet_id]?.name ?? "";
    await outbox.add(page.head.id, [{ kind: "coats_set", body }], say.taps.coatsNow(partName(page, row.id), name, coats));
    done();
  }
</script>

<TapForm {done}>
  <label>{say.taps.whyIfYouLike} <input bind:value={reason} maxlength="200" /></label>
  {#each rows as row (row.id + row.layer.id)}
    <div class="row">
      <p>
        <b>{partName(page, row.id)}, {page.facts.sheets[row.layer.sheet_id]?.name}</b>
        {say.taps.onOf(row.on, row.layer.coats)}{#if row.build}. {say.taps.measured(
            um(row.build.so_far_um),
            um(row.build.target_um),
            row.build.coats_to_go,
          )}{/if}
      </p>
      <button type="button" class="btn small" onclick={() => set(row, Math.max(row.layer.coats, row.on) + 1)}>{say.taps.oneMore}</button>
      <button type="button" class="btn small" disabled={row.on < 1 || row.on >= row.layer.coats} onclick={() => set(row, row.on)}
        >{say.taps.enough}</button
      >
    </div>
  {/each}
</TapForm>

<style>
  .row p {
    flex: 1 1 220px;
    align-self: center;
  }
</style>
