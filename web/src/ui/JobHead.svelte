<script lang="ts">
  /** Title left, the stair of work right; the step the job is at wears its most urgent skin. */
  import type { JobPage } from "../api/client";
  import { stamp } from "../lib/format";
  import { push } from "svelte-spa-router";
  import { outbox } from "../lib/outbox.svelte";
  import { session } from "../lib/session.svelte";
  import { stepName, STEPS, type Step } from "../lib/tabs";
  import { say } from "../words";

  /** `step` null: a page beside the order of work. */
  type Props = { page: JobPage; step: Step | null };
  let { page, step }: Props = $props();
  const at = $derived(page.view.next.some((t) => t.kind === "coat") || page.view.running.length ? 4 : page.head.in_service ? 6 : 5);
  const urgent = $derived(page.view.urgent_state);
  /** What lies on what, each system by itself: two systems on two parts do not lie on one another. */
  const materials = $derived([
    ...new Set(
      page.facts.parts
        .filter((p) => !p.retired)
        .map((p) =>
          page.facts.layers
            .filter((l) => l.part_id === p.id)
            .toSorted((a, b) => b.position - a.position)
            .map((l) => page.facts.sheets[l.sheet_id]?.name ?? "")
            .join(say.jobHead.over),
        ),
    ),
  ]);
  async function remove(): Promise<void> {
    await outbox.add(page.head.id, [{ kind: "archived", body: { archived: true } }]);
    await push("/jobs");
  }
</script>

<div class="head jobhead">
  <div class="title">
    <h1>{page.head.title}, {page.head.asset}</h1>
    {#if page.head.example && !page.state.archived}<p>
        <b>{say.first.isExample}.</b>
        {say.first.exampleAbout}
        {#if session.mayWrite}<button type="button" class="btn small noprint" onclick={remove}>{say.first.removeExample}</button>{/if}
      </p>{/if}
    {#if page.state.ended}<p>
        <b>{page.state.ended.how === "closed" ? say.ending.closed : say.ending.abandoned}</b>
        {stamp(page.state.ended.at)}
      </p>{/if}
    <p>
      {[page.head.mark, page.head.customer].filter(Boolean).join(", ")}{page.head.mark || page.head.customer ? ". " : ""}{page.head.place}. {materials.join(
        "; ",
      )}, {say.common.countedParts(page.head.parts)}
    </p>
  </div>
  <span class="beside"
    ><a class="line" href={`#/jobs/${page.head.id}/dossier`} aria-current={step === null ? "page" : undefined}>{say.common.jobRecord}</a
    ></span
  >
  <nav class="stair" aria-label={say.jobHead.sectionsOfThisJob}>
    {#each STEPS as id, i (id)}
      <a
        href={`#/jobs/${page.head.id}/${id}`}
        class={id === step ? "here" : i <= at ? "done" : "todo"}
        style:--i={i}
        aria-current={id === step ? "step" : undefined}
      >
        {#if i === at && urgent}
          <svg class="live" aria-hidden="true"
            ><rect width="100%" height="9" fill={`url(#p-${urgent})`} stroke="var(--skin-line)" stroke-width="1.5" /></svg
          >
        {/if}
        {stepName(id)}
      </a>
    {/each}
  </nav>
</div>

<style>
  .head {
    display: flex;
    align-items: flex-end;
    min-height: 78px;
    padding: 0 24px;
    gap: 20px;
    border-bottom: 2px solid var(--ink);
  }
  .title {
    flex: 0 1 46%;
    padding-bottom: 10px;
  }
  h1 {
    font-size: 30px;
  }
  p {
    color: var(--ink2);
    margin-top: 5px;
    font-size: 15px;
  }
  .beside {
    padding-bottom: 12px;
    font-weight: 600;
  }
  .beside :global([aria-current]) {
    font-weight: 760;
  }
  .stair {
    flex: 1;
    display: grid;
    grid-template-columns: repeat(7, 1fr);
    align-items: end;
  }
  .stair a {
    display: flex;
    align-items: flex-start;
    padding: 8px 0 0 7px;
    font-weight: 600;
    font-stretch: 86%;
    height: calc(44px + var(--i) * 3.5px);
    position: relative;
  }
  .done {
    background: var(--b2);
    border-top: 2px solid var(--ink);
  }
  .here {
    background: var(--ink);
    color: var(--on-ink);
    border-top: 2px solid var(--ink);
    font-weight: 760;
  }
  .todo {
    border-top: 2px dashed var(--edge);
    color: var(--ink2);
  }
  .live {
    position: absolute;
    left: 0;
    top: -9px;
    width: 100%;
    height: 9px;
    overflow: visible;
  }
  @media (max-width: 700px) {
    .head {
      flex-direction: column;
      align-items: stretch;
      padding: 0;
      gap: 8px;
    }
    .title {
      padding: 6px 16px 0;
    }
    .beside {
      padding: 0 16px;
    }
    h1 {
      font-size: 24px;
    }
    /* Seven sections do not fit on one row: four and three, all of a height. */
    .stair {
      grid-template-columns: repeat(4, 1fr);
      border-top: 2px solid var(--edge);
    }
    .stair a {
      height: 46px;
      font-size: 15px;
      font-stretch: 84%;
      padding: 0 0 0 10px;
      align-items: center;
      border-top: 0;
      border-left: 1px solid var(--edge);
      border-bottom: 1px solid var(--edge);
    }
    .live {
      top: 0;
    }
  }
</style>
