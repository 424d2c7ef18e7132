<script lang="ts">
  /** Steps in working order, each with its check, tools, cautions and time; ticked or failed where that is asked for. */
  import type { Schemas } from "../api/client";
  import { duration } from "../lib/format";
  import { say } from "../words";

  type Props = { steps: Schemas["WorkLine"][]; look?: (work: Schemas["Work"], held: boolean) => void };
  let { steps, look }: Props = $props();
  const told = (i: number, text: string) => steps.slice(0, i).some((s) => (s.work.cautions ?? []).includes(text));
</script>

<ol class="work" class:looks={Boolean(look)}>
  {#each steps as { work, held }, i (work.key)}
    <li class:held={held === true} class:failed={held === false} class:coat={work.step === "coat"}>
      <p class="name">
        <b>{i + 1}. {work.name}</b>{held ? `, ${say.common.pass}` : ""}
        <span class="mute">{work.takes_s ? duration(work.takes_s) : ""}</span>
      </p>
      <p class="check">
        {work.step === "coat" ? "" : say.steps.check(work.check)}
        {#if work.tools.length}<span class="mute">{work.tools.join(", ")}.</span>{/if}
        {#if work.instead}<span class="mute">{work.instead}</span>{/if}
      </p>
      {#each (work.cautions ?? []).filter((c) => !told(i, c)) as c, n (n)}<p class="haz">{c}</p>{/each}
      {#if held === false}<p class="haz"><b>{say.common.failed}</b> {work.if_failed || say.common.repeatTheStep}</p>{/if}
      {#if look && work.step !== "coat"}
        <div class="row">
          <button
            type="button"
            class="btn small"
            class:go={held === true}
            aria-pressed={held === true}
            aria-label={say.steps.pass(work.name)}
            onclick={() => look(work, true)}>{say.common.passButton}</button
          >
          <button
            type="button"
            class="btn small"
            class:go={held === false}
            aria-pressed={held === false}
            aria-label={say.steps.fail(work.name)}
            onclick={() => look(work, false)}>{say.common.failButton}</button
          >
        </div>
      {/if}
    </li>
  {/each}
</ol>

<style>
  .work {
    margin: 0;
    padding: 0;
    list-style: none;
    display: grid;
    gap: 0;
  }
  li {
    border-top: 1px solid var(--rule);
    padding: 6px 0;
    display: grid;
    grid-template-columns: minmax(180px, 1fr) minmax(0, 1.7fr) fit-content(180px);
    gap: 2px 14px;
    align-items: start;
  }
  .looks li {
    grid-template-columns: minmax(160px, 1fr) minmax(0, 1.7fr) minmax(180px, auto);
  }
  li.coat {
    border-top: 3px solid var(--ink);
  }
  li.failed {
    background: var(--lift);
  }
  .check {
    font-size: 14px;
  }
  .haz {
    grid-column: 1 / 3;
    font-size: 14px;
    border-left: 4px solid var(--ink);
    padding-left: 8px;
  }
  .row {
    grid-column: 3;
    grid-row: 1;
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    max-width: 200px;
    justify-self: end;
  }
  @media (max-width: 700px) {
    li,
    .looks li {
      grid-template-columns: 1fr;
    }
    .haz,
    .row {
      grid-column: 1;
      grid-row: auto;
    }
  }
</style>
