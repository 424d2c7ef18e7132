<script lang="ts">
  /** A label for a cup: what is in it, since when, and when it dies; with the way to the job. */
  import { router } from "svelte-spa-router";
  import { api, type JobPage, type Schemas } from "../../api/client";
  import { serverClock } from "../../lib/clock.svelte";
  import { clockTime, stamp, volume, when } from "../../lib/format";
  import { component } from "../../lib/judged";
  import { printed } from "../../lib/paper";
  import Code from "../../figures/Code.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  let code = $state.raw<Schemas["JobCode"] | null>(null);
  const id = $derived(new URLSearchParams(router.querystring ?? "").get("batch") ?? "");
  const batch = $derived(
    page.state.batches.find((b) => b.batch_id === id) ?? page.state.batches.findLast((b) => b.mixed && b.closed_at === null),
  );
  const sheet = $derived(batch ? page.facts.sheets[batch.sheet_id] : undefined);
  const now = $derived(serverClock.now);
  $effect(() => {
    void api.GET("/api/jobs/{job_id}/code", { params: { path: { job_id: page.head.id } } }).then(({ data }) => (code = data ?? null));
  });
</script>

{#if batch && sheet}
  <p class="tools"><button class="btn" onclick={printed}>{say.common.print}</button></p>
  <article class="label" aria-label={say.paper.cupLabel}>
    <div>
      <h1>{sheet.name}</h1>
      <p>{page.head.title}</p>
      <p>{batch.poured.map((p) => `${component(p.role)} ${volume(p.ml)}${p.can?.lot ? ` (${p.can.lot})` : ""}`).join(", ")}</p>
      {#if batch.hardener_in_at}<p>{say.paper.mixedAt(stamp(batch.hardener_in_at))}</p>{/if}
      {#if sheet.properties.needs_air_fed_mask}<p><b>{say.common.isocyanate}</b></p>{/if}
    </div>
    {#if code}<div class="code"><Code rows={code.rows} label={say.paper.code} /></div>{/if}
    {#if batch.use_by_at}<p class="dies">
        {say.paper.useBy} <b>{when(batch.use_by_at, now)}</b>{#if batch.gels_at}<small>{say.paper.gels(clockTime(batch.gels_at))}</small
          >{/if}
      </p>{:else}<p class="dies">{say.paper.lasts}</p>{/if}
  </article>
{:else}<p class="tools">{say.paper.noMix}</p>{/if}

<style>
  .tools {
    padding: 12px 24px;
  }
  /* About the size of a shipping label's half: fits rolls from 58 mm on. */
  .label {
    margin: 0 24px;
    width: 88mm;
    border: 2px solid #000;
    background: #fff;
    color: #000;
    padding: 3mm;
    display: grid;
    grid-template-columns: 1fr 24mm;
    gap: 2mm;
    font-size: 10pt;
    line-height: 1.2;
  }
  h1 {
    font-size: 15pt;
    line-height: 1;
  }
  .code {
    width: 24mm;
  }
  .code :global(svg) {
    width: 100%;
  }
  .dies {
    grid-column: 1 / -1;
    border-top: 2px solid #000;
    padding-top: 2mm;
    font-size: 13pt;
  }
  .dies b {
    font-size: 22pt;
    font-stretch: 76%;
  }
  small {
    display: block;
    font-size: 9pt;
  }
  @media print {
    .label {
      margin: 0;
    }
  }
</style>
