<script lang="ts">
  /** A code for a camera: dark on light in every light, with the empty edge it needs. */
  type Props = { rows: string[]; label: string };
  let { rows, label }: Props = $props();
  const EDGE = 4;
  const side = $derived(rows.length + 2 * EDGE);
  const path = $derived(
    rows
      .flatMap((row, y) => [...row].map((dark, x) => (dark === "1" ? `M${x + EDGE} ${y + EDGE}h1v1h-1z` : "")))
      .filter(Boolean)
      .join(""),
  );
</script>

<svg viewBox={`0 0 ${side} ${side}`} role="img" aria-label={label} shape-rendering="crispEdges"
  ><rect width={side} height={side} fill="#fff" /><path d={path} fill="#000" /></svg
>

<style>
  svg {
    width: min(280px, 80vw);
    display: block;
  }
</style>
