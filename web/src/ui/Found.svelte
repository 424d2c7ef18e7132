<script lang="ts">
  /** Findings of the log: what went wrong, where, and what to do about it now; met ones say so. */
  import type { JobPage } from "../api/client";
  import { stamp } from "../lib/format";
  import { judged, type LogFinding, readBy, whereFound } from "../lib/judged";
  import { keyed } from "../lib/keyed";
  import { outbox } from "../lib/outbox.svelte";
  import { session } from "../lib/session.svelte";
  import { say } from "../words";

  /** `brief`: what it is, on one line; what to do about it stands elsewhere. */
  type Props = { page: JobPage; findings: LogFinding[]; brief?: boolean };
  let { page, findings, brief = false }: Props = $props();
  /** Two devices told one coat: the later entry is void, the coat stays. */
  const once = (f: LogFinding): void =>
    void outbox.add(page.head.id, [{ kind: "strike", body: { target_id: f.entry_id, reason: say.log.reasons[2] } }], say.log.voided);
  const by = (f: LogFinding): string => page.log.find((e) => e.id === f.entry_id)?.actor ?? "";
</script>

{#each keyed(findings, (f) => `${f.code}/${f.coat_id}/${f.batch_id}/${f.part_id}`) as { key, row: f } (key)}
  {@const told = judged(f)}
  <p class="found {f.severity}" class:met={f.met_at != null}>
    <b>{f.met_at != null ? say.found.putRight : say.severity[f.severity]}: {told.what}</b>
    {#if !brief}<span class="mute">{whereFound(page, f)}{readBy(f)}.</span>
      {#if f.code === "log.twice" && f.met_at == null && session.mayWrite}<button class="btn small" onclick={() => once(f)}
          >{say.found.itWasOne(by(f))}</button
        >{/if}
      {#if f.met_at != null}{stamp(f.met_at)}.{:else}{told.todo}{f.until_at ? ` ${say.found.until(stamp(f.until_at))}` : ""}{/if}{/if}
  </p>
{/each}

<style>
  .found {
    border-left: 6px solid var(--edge);
    padding: 4px 0 4px 10px;
    font-size: 15px;
  }
  .risks {
    border-left-color: var(--ink);
  }
  .ruins {
    border-left: 0;
    padding: 8px 10px;
    background: var(--ink);
    color: var(--on-ink);
  }
  .ruins .mute {
    color: inherit;
  }
  .met {
    background: none;
    color: var(--ink2);
    border-left: 6px solid var(--rule);
    padding: 4px 0 4px 10px;
  }
</style>
