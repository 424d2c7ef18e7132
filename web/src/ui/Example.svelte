<script lang="ts">
  /** An invented job to look at, in the middle of its work; put away like any other. */
  import { push } from "svelte-spa-router";
  import { api, inWords } from "../api/client";
  import { say } from "../words";

  /** `before`: what the page still has to keep first. */
  type Props = { before?: () => Promise<void> };
  let { before }: Props = $props();
  let busy = $state(false);
  let refusal = $state("");
  async function load(): Promise<void> {
    busy = true;
    await before?.();
    const { data, error } = await api.POST("/api/jobs/example");
    busy = false;
    refusal = error ? inWords(error) : "";
    if (data) await push(`/jobs/${data.id}/run`);
  }
</script>

<button type="button" class="btn" disabled={busy} onclick={load}>{say.first.example}</button>
{#if refusal}<b role="alert">{refusal}</b>{/if}
