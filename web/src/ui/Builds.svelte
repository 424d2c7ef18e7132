<script lang="ts">
  /** Where the film that was measured asks for more coats, or fewer, than are planned. */
  import type { JobPage } from "../api/client";
  import { partName } from "../lib/actions";
  import { um } from "../lib/format";
  import { say } from "../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  const rows = $derived(
    page.state.parts.flatMap((p) =>
      (p.builds ?? []).filter((b) => b.coats_to_go !== b.planned_to_go).map((build) => ({ id: p.part_id, build })),
    ),
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

<style>
  p {
    border-left: 6px solid var(--edge);
    padding-left: 10px;
    font-size: 15px;
  }
</style>
