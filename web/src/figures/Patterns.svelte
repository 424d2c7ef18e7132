<script lang="ts">
  /** The textures of states and bodies, once a page; every figure refers to them by name. */
</script>

<svg width="0" height="0" class="patterns" aria-hidden="true">
  <defs>
    <pattern id="p-wet" width="40" height="40" patternUnits="userSpaceOnUse"><rect width="40" height="40" fill="var(--wet)" /></pattern>
    <pattern id="p-flash" width="7" height="7" patternUnits="userSpaceOnUse"
      ><rect width="7" height="7" fill="var(--flash)" /><circle cx="1.75" cy="1.75" r="1.25" fill="var(--flash-mark)" /><circle
        cx="5.25"
        cy="5.25"
        r="1.25"
        fill="var(--flash-mark)"
      /></pattern
    >
    <pattern id="p-open" width="13" height="40" patternUnits="userSpaceOnUse"
      ><rect width="13" height="40" fill="var(--ready)" /><rect width="2" height="40" fill="var(--ready-mark)" /></pattern
    >
    <pattern id="p-closing" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
      ><rect width="9" height="9" fill="var(--closing)" /><rect width="4" height="9" fill="var(--closing-mark)" /></pattern
    >
    <pattern id="p-over_age" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
      ><rect width="6" height="6" fill="var(--over)" /><path d="M0 0H6M0 0V6" stroke="var(--over-mark)" stroke-width="1.7" /></pattern
    >
    <pattern id="p-curing" width="9" height="9" patternUnits="userSpaceOnUse"
      ><rect width="9" height="9" fill="var(--cured)" /><circle cx="2.2" cy="2.2" r="1.1" fill="var(--cured-mark)" /><circle
        cx="6.7"
        cy="6.7"
        r="1.1"
        fill="var(--cured-mark)"
      /></pattern
    >
    <pattern id="p-cured" width="8" height="8" patternUnits="userSpaceOnUse"><rect width="8" height="8" fill="var(--cured)" /></pattern>
    <pattern id="p-nogo" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(-45)"
      ><rect width="6" height="6" fill="var(--ground)" /><rect width="1.6" height="6" fill="var(--hatch)" /></pattern
    >
    <pattern id="m-plain" width="8" height="8" patternUnits="userSpaceOnUse"><rect width="8" height="8" fill="var(--b2)" /></pattern>
    <pattern id="m-fine" width="5" height="5" patternUnits="userSpaceOnUse"
      ><rect width="5" height="5" fill="var(--b3)" /><circle cx="2" cy="2" r=".7" fill="var(--b-speck)" /></pattern
    >
    <pattern id="m-speckle" width="11" height="9" patternUnits="userSpaceOnUse"
      ><rect width="11" height="9" fill="var(--b3)" /><path
        d="M1 2l2 1-1 1zM6 6l2-1 .6 1.6zM8 1.2l1.6.4-.8 1z"
        fill="var(--b-speck)"
      /></pattern
    >
    <pattern id="m-dots" width="10" height="10" patternUnits="userSpaceOnUse"
      ><rect width="10" height="10" fill="var(--b2)" /><circle cx="2.5" cy="2.5" r="1.5" fill="var(--b-line)" /><circle
        cx="7.5"
        cy="7.5"
        r="1.5"
        fill="var(--b-line)"
      /></pattern
    >
    <pattern id="m-slant" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(60)"
      ><rect width="7" height="7" fill="var(--b3)" /><rect width="1.4" height="7" fill="var(--b-line)" /></pattern
    >
    <pattern id="m-bands" width="12" height="12" patternUnits="userSpaceOnUse"
      ><rect width="12" height="12" fill="var(--b3)" /><rect width="12" height="6" fill="var(--b2)" /></pattern
    >
    <pattern id="m-weave" width="8" height="8" patternUnits="userSpaceOnUse"
      ><rect width="8" height="8" fill="var(--b4)" /><path d="M0 2h4M4 6h4M2 4v4M6 0v4" stroke="var(--b-line)" stroke-width="1" /></pattern
    >
    <pattern id="m-ground" width="8" height="8" patternUnits="userSpaceOnUse"><rect width="8" height="8" fill="var(--b1)" /></pattern>
    <pattern id="m-metal" width="12" height="12" patternUnits="userSpaceOnUse" patternTransform="rotate(28)"
      ><rect width="12" height="12" fill="var(--b1)" /><path d="M0 3H12M0 9H7" stroke="var(--b-line)" stroke-width="1" /></pattern
    >
  </defs>
</svg>

<style>
  .patterns {
    position: absolute;
  }
</style>
