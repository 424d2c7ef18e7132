<script lang="ts">
  /** What the server did not take: why, its numbers, words and time to be put right, and the way to send or drop it. */
  import { serverClock } from "../lib/clock.svelte";
  import { type Leaf, leavesOf, mended, unitOf } from "../lib/mend";
  import { type Aside, outbox } from "../lib/outbox.svelte";
  import { timeField, timeTyped } from "../lib/times";
  import { say } from "../words";

  /** `some`: entries that belong together are stored whole or not at all, and so mended together. */
  type Props = { some: Aside[] };
  let { some }: Props = $props();
  let mending = $state(false);
  let leaves = $state.raw<Leaf[]>([]);
  let texts = $state<string[]>([]);
  let times = $state<string[]>([]);
  let refusal = $state("");
  const culprit = $derived(some.find((a) => a.culprit) ?? some[0]!);
  const kinds = say.told as Record<string, string>;
  const names = say.mend.fields as Record<string, string>;
  const said = $derived(String(culprit.entry.body.text ?? culprit.entry.body.reason ?? ""));
  /** Why, with the field as it is called on the page. */
  const why = $derived(
    culprit.why.replace(/^body\.(?:\w+\.|[\w]+\[\d+\]\.)*(\w+)(?:\[\d+\])?: /, (_, key: string) => `${names[key] ?? key}: `),
  );
  const nameOf = (leaf: Leaf): string => [names[leaf.key] ?? leaf.key, unitOf(leaf.quantity)].filter(Boolean).join(", ");

  function open(): void {
    leaves = some.flatMap((a) => leavesOf(a.entry));
    texts = leaves.map((leaf) => leaf.text);
    times = some.map((a) => timeField(a.entry.at));
    mending = true;
  }
  async function send(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const made = [];
    for (const [i, a] of some.entries()) {
      const entry = mended(a.entry, leaves, texts);
      if ("quantity" in entry) return void (refusal = say.mend.noNumber(nameOf(entry)));
      const at = timeTyped(times[i] ?? "", serverClock.now);
      if (at === null || Number.isNaN(at) || at > serverClock.now) return void (refusal = say.mend.noTime);
      const moved = times[i] !== timeField(a.entry.at);
      made.push(moved ? { ...entry, at, at_from: "typed" } : entry);
    }
    refusal = "";
    mending = false;
    await outbox.again(some, made);
  }
</script>

<div class="aside" role="alert">
  <b>{say.app.notAccepted(kinds[culprit.entry.kind] ?? culprit.entry.kind)}</b>
  {#if said}<q>{said}</q>{/if}
  {say.app.itIsKeptOnThis(/[.!?]$/.test(why) ? why : `${why}.`)}
  {#if !mending}
    <button class="btn small" onclick={open}>{say.mend.change}</button>
    <button class="btn small" onclick={() => outbox.again(some)}>{say.app.sendAgain}</button>
  {/if}
  <button class="btn small" onclick={() => outbox.forget(some)}>{say.app.dismiss}</button>
  {#if mending}
    <form onsubmit={send} novalidate aria-label={say.mend.change}>
      {#each some as a, n (a.entry.id)}
        <fieldset>
          {#if some.length > 1}<legend>{kinds[a.entry.kind] ?? a.entry.kind}</legend>{/if}
          <label>{say.mend.at} <input type="datetime-local" bind:value={times[n]} /></label>
          {#each leaves as leaf, i (i)}
            {#if leaf.entry === a.entry.id}<label
                >{nameOf(leaf)}
                <input inputmode={leaf.quantity === "words" ? "text" : "decimal"} bind:value={texts[i]} /></label
              >{/if}
          {/each}
        </fieldset>
      {/each}
      <button class="btn small go">{say.mend.send}</button>
      <button type="button" class="btn small" onclick={() => (mending = false)}>{say.common.cancel}</button>
      {#if refusal}<p class="refusal"><b>{refusal}</b></p>{/if}
    </form>
  {/if}
</div>

<style>
  .aside {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
    align-items: center;
    padding: 8px 24px;
    background: var(--lift);
    border-top: 2px solid var(--ink);
  }
  form {
    flex: 1 1 100%;
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
    align-items: end;
  }
  fieldset {
    border: 0;
    padding: 0;
    margin: 0;
    display: flex;
    flex-wrap: wrap;
    gap: 8px 12px;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .refusal {
    flex: 1 1 100%;
    margin: 0;
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
</style>
