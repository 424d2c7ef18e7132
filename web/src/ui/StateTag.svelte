<script lang="ts">
  /** A state: swatch with its texture, then its word. */
  type Props = { state: string | null; word: string };
  let { state, word }: Props = $props();
</script>

<span class="tag">
  <svg width="34" height="14" aria-hidden="true">
    <rect
      x=".75"
      y=".75"
      width="32.5"
      height="12.5"
      fill={state ? `url(#p-${state})` : "none"}
      stroke="var(--skin-line)"
      stroke-width="1.5"
      stroke-dasharray={state ? undefined : "4 3"}
    />
    {#if state === "wet"}<path d="M4 4.5H20M23 4.5H30" stroke="var(--wet-glint)" stroke-width="2" />{/if}
  </svg>
  <b>{word}</b>
</span>

<style>
  .tag {
    display: inline-flex;
    align-items: center;
    gap: 8px;
  }
  .tag svg {
    flex: none;
  }
  b {
    font-weight: 700;
  }
</style>
