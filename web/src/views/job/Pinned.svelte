<script lang="ts">
  /** A picture with a pin where the damage is. */
  import Photo from "../../ui/Photo.svelte";

  type Props = { id: string; across: number; down: number; alt: string };
  let { id, across, down, alt }: Props = $props();
</script>

<span class="picture"
  ><Photo {id} {alt} />
  <svg viewBox="0 0 24 24" style:left={`${across * 100}%`} style:top={`${down * 100}%`} aria-hidden="true"
    ><path d="M12 1v22M1 12h22" stroke="var(--field)" stroke-width="5" /><path
      d="M12 1v22M1 12h22"
      stroke="var(--ink)"
      stroke-width="2"
    /></svg
  ></span
>

<style>
  .picture {
    position: relative;
    display: block;
    line-height: 0;
    overflow: hidden;
  }
  .picture :global(img) {
    width: 100%;
    border: 1px solid var(--ink);
  }
  .picture svg {
    position: absolute;
    width: 28px;
    height: 28px;
    transform: translate(-50%, -50%);
  }
</style>
