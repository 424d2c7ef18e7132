<script lang="ts">
  /** For the windscreen or the cockpit: what it may bear from when, large, with the way to the job. */
  import { api, type JobPage, type Schemas } from "../../api/client";
  import { partName } from "../../lib/actions";
  import { serverClock } from "../../lib/clock.svelte";
  import { stamp, temp, when } from "../../lib/format";
  import { GATES, gateName } from "../../lib/gates";
  import { pages, printed } from "../../lib/paper";
  import { session } from "../../lib/session.svelte";
  import Code from "../../figures/Code.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  let code = $state.raw<Schemas["JobCode"] | null>(null);
  const now = $derived(serverClock.now);
  const TOLD = ["handle", "water", "wash", "use", "immerse_from", "full"];
  const coated = $derived(page.state.parts.filter((p) => p.films.length > 0));
  /** A gate is passed when its last part has passed it; where one never does at this temperature, none is told. */
  const gates = $derived(
    GATES.filter((name) => TOLD.includes(name)).flatMap((name) => {
      const own = coated.flatMap((p) => p.gates.filter((g) => g.name === name).map((g) => ({ part: p.part_id, g })));
      if (!own.length) return [];
      // A part nothing is known of is no yes: its sheet does not speak of this.
      const silent = coated.filter((p) => !p.gates.some((g) => g.name === name)).map((p) => p.part_id);
      const never = [...silent, ...own.filter(({ g }) => g.late_at == null || g.failed_at != null).map((x) => x.part)];
      const last = own.toSorted((a, b) => (b.g.late_at ?? 0) - (a.g.late_at ?? 0))[0]!;
      return [{ name, at: never.length ? null : last.g.late_at!, parts: never.length ? never : [last.part], of: coated.length }];
    }),
  );
  const unfinished = $derived(page.view.next.some((t) => t.kind === "coat"));
  $effect(() => {
    void api.GET("/api/jobs/{job_id}/code", { params: { path: { job_id: page.head.id } } }).then(({ data }) => (code = data ?? null));
  });
  $effect(() => pages(say.paper.foot(session.who?.shop ?? "", page.head.title)));
</script>

<article class="sheet">
  <p class="tools"><button class="btn" onclick={printed}>{say.common.print}</button></p>
  <header>
    <div>
      <p class="shop">{session.who?.shop}</p>
      <h1>{page.head.asset}</h1>
      <p>{[page.head.mark, page.head.title, page.head.customer].filter(Boolean).join(", ")}</p>
    </div>
    {#if code}<div class="code"><Code rows={code.rows} label={say.paper.code} /></div>{/if}
  </header>
  {#if unfinished}<p class="warn"><b>{say.paper.unfinished}</b></p>{:else}<dl>
      {#each gates as g (g.name)}
        <dt>{(say.paper.before as Record<string, string>)[g.name] ?? gateName(g.name)}</dt>
        <dd>
          {#if g.at === null}{say.paper.askFirst}{:else if g.at <= now}{say.paper.allowed}{:else}{when(g.at, now)}{/if}
          {#if g.of > 1 && g.parts.length < g.of}<small>{g.parts.map((id) => partName(page, id)).join(", ")}</small>{/if}
        </dd>
      {:else}<dt>{say.cure.notCoatedYet}</dt>{/each}
    </dl>{/if}
  <p class="mute">{say.paper.assumes(temp(page.air.air_degc), stamp(now), page.state.through_seq)}</p>
</article>

<style>
  .sheet {
    padding: 16px 24px;
    display: grid;
    gap: 16px;
    align-content: start;
    max-width: 900px;
  }
  header {
    display: flex;
    justify-content: space-between;
    gap: 24px;
    align-items: start;
  }
  .shop {
    font-weight: 720;
  }
  h1 {
    font-size: 44px;
    line-height: 1;
  }
  .code {
    width: 150px;
    flex: none;
  }
  .code :global(svg) {
    width: 100%;
  }
  .warn {
    background: var(--ink);
    color: var(--on-ink);
    padding: 10px 14px;
    font-size: 22px;
  }
  dl {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    font-size: 26px;
    font-stretch: 84%;
  }
  dt,
  dd {
    border-top: 2px solid var(--ink);
    padding: 10px 0;
    margin: 0;
  }
  dd {
    font-weight: 800;
    text-align: right;
  }
  small {
    display: block;
    font-size: 15px;
    font-weight: 500;
  }
  @media print {
    .warn {
      print-color-adjust: exact;
    }
  }
</style>
