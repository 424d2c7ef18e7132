<script lang="ts">
  /** Which lots of a material were poured, and every job each of them went into. */
  import { api, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { date } from "../../lib/format";
  import { component } from "../../lib/judged";
  import { say } from "../../words";

  type Props = { materialId: string };
  let { materialId }: Props = $props();
  const told = new Answer<Schemas["LotLine"][]>();
  $effect(() => {
    const path = { params: { path: { material_id: materialId } } };
    void told.ask(() => api.GET("/api/lots/{material_id}", path));
  });
  const day = (text: string): string => date(Date.parse(`${text}T12:00:00Z`) / 1000);
</script>

<h4>{say.cans.traceTitle}</h4>
{#if told.problem}<p role="alert">{told.problem}</p>
{:else if told.data?.length}
  <ul>
    {#each told.data as line (line.role + line.lot)}
      <li>
        <b>{component(line.role)}, {say.cans.lotOf(line.lot)}</b>{line.expires_on ? `, ${say.cans.expiresOn(day(line.expires_on))}` : ""}.
        {say.cans.wentInto}
        {#each line.jobs as job, i (job.job_id)}{i ? ", " : " "}<a href={`#/jobs/${job.job_id}/dossier`}>{job.title}</a>
          ({date(job.at)}){/each}.
      </li>
    {/each}
  </ul>
{:else}<p class="mute">{say.cans.traceNone}</p>{/if}

<style>
  h4 {
    font-size: 15px;
  }
  ul {
    list-style: none;
    padding: 0;
    margin: 0;
    font-size: 14px;
    display: grid;
    gap: 4px;
  }
</style>
