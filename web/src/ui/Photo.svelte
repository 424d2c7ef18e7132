<script lang="ts">
  /** A picture by its id: the server's, or this device's own that is not sent yet. */
  import { isHere } from "../lib/photos";
  import { outbox } from "../lib/outbox.svelte";

  type Props = { id: string; alt: string };
  let { id, alt }: Props = $props();
  let here = $state("");
  $effect(() => {
    if (!isHere(id)) return;
    let mine = "";
    let gone = false;
    void outbox.photo(id).then((blob) => {
      if (blob && !gone) here = mine = URL.createObjectURL(blob);
    });
    return () => {
      gone = true;
      URL.revokeObjectURL(mine);
    };
  });
  const src = $derived(isHere(id) ? here : `/api/photos/${id}`);
</script>

{#if src}<img {src} {alt} loading="lazy" />{/if}

<style>
  img {
    max-width: 100%;
  }
</style>
