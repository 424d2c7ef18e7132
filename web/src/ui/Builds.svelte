<script lang="ts">
  /** Where the film that was measured asks for more coats, or fewer, than are planned. */
  import type { JobPage } from "../api/client";
  import { partName } from "../lib/actions";
  import { spaced, um } from "../lib/format";
  import WhyNote from "./WhyNote.svelte";
  import { say } from "../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const rows = $derived(
    page.state.parts.flatMap((p) =>
      (p.builds ?? []).filter((b) => b.coats_to_go !== b.planned_to_go).map((build) => ({ id: p.part_id, build })),
    ),
  );
  /** Top coats that wait longer than their sheet says, for their film or their thinner. */
  const slow = $derived(
    page.state.parts.flatMap((p) => {
      const film = p.films.at(-1);
      return film && film.waits_x > 1.02 ? [{ id: p.part_id, film }] : [];
    }),
  );
  const material = (layerId: string): string =>
    page.facts.sheets[page.facts.layers.find((l) => l.id === layerId)?.sheet_id ?? ""]?.name ?? "";
</script>

{#each rows as { id, build } (build.layer_id)}
  <p>
    <b>{partName(page, id)}, {material(build.layer_id)}:</b>
    {say.taps.measured(um(build.so_far_um), um(build.target_um), build.coats_to_go)}, {say.taps.plannedToGo(build.planned_to_go)}.
  </p>
{/each}

{#each slow as { id, film } (film.coat_id)}
  <div class="slow">
    <b>{partName(page, id)}:</b>
    {say.taps.waitsLonger(spaced(film.waits_x, 1))}
    {#if film.waits_why}<WhyNote why={film.waits_why} />{/if}
  </div>
{/each}

<style>
  .slow {
    border-left: 6px solid var(--edge);
    padding-left: 10px;
    font-size: 15px;
  }
  p {
    border-left: 6px solid var(--edge);
    padding-left: 10px;
    font-size: 15px;
  }
</style>
