<script lang="ts">
  /** A question that stops the work until it is answered: yes or no, by the owner, kept with the shop. */
  import { api } from "../api/client";
  import { Answer } from "../lib/answer.svelte";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";

  /** `fact`: what is asked, as the server names it; `question`: in words. */
  type Props = { fact: string; question: string; answered: () => void };
  let { fact, question, answered }: Props = $props();
  const sent = new Answer<unknown>();

  async function put(yes: boolean): Promise<void> {
    const data = await sent.ask(() => api.PUT("/api/shop/facts/{fact}", { params: { path: { fact } }, body: { yes } }));
    if (data) answered();
  }
</script>

{#if session.who?.role === "owner"}
  <div class="ask" role="group" aria-label={question}>
    <button type="button" class="btn small" disabled={sent.waiting} onclick={() => put(true)}>{say.ask.yes}</button>
    <button type="button" class="btn small" disabled={sent.waiting} onclick={() => put(false)}>{say.ask.no}</button>
    <span class="mute">{sent.problem || say.ask.keptWithTheShop}</span>
  </div>
{:else}<p class="mute">{say.ask.onlyTheOwner}</p>{/if}

<style>
  .ask {
    display: flex;
    gap: 8px;
    align-items: center;
    flex-wrap: wrap;
  }
</style>
