<script lang="ts">
  /** The smaller taps (air, abraded, wiped, gauge, defect, note) and the log with its strikes. */
  import type { Snippet } from "svelte";
  import type { JobPage } from "../../api/client";
  import { partName } from "../../lib/actions";
  import { component } from "../../lib/judged";
  import { bare, duration, show, temp, unit, volume, when } from "../../lib/format";
  import { opened } from "../../lib/opened";
  import { outbox } from "../../lib/outbox.svelte";
  import { session } from "../../lib/session.svelte";
  import { serverClock } from "../../lib/clock.svelte";
  import { isHere } from "../../lib/photos";
  import Photo from "../../ui/Photo.svelte";
  import Taps from "./taps/Taps.svelte";
  import { say } from "../../words";

  /** `children` stand between the taps and the log: what comes in late must not push a tap from under the finger. */
  type Props = { page: JobPage; partId: string; children?: Snippet };
  let { page, partId, children }: Props = $props();
  let striking = $state("");
  let reason = $state("");
  let refusal = $state("");
  const job = $derived(page.head.id);

  async function strike(event?: SubmitEvent): Promise<void> {
    event?.preventDefault();
    if (!reason.trim()) return void (refusal = say.log.enterADescriptionFirst);
    await outbox.add(job, [{ kind: "strike", body: { target_id: striking, reason: reason.trim() } }], say.log.voided);
    striking = reason = refusal = "";
  }
  const WHY: Record<string, string> = { used: say.log.usedUp, died: say.log.wentOff, thrown: say.log.thrownAway };
  /** Only what is about this part; empty: all of it. */
  let shownPart = $state("");
  /** A step as it went on the log: with its check, the step it was and what was found. */
  const looked = (b: Record<string, unknown>, found: string): string =>
    typeof b.check_id === "string"
      ? `${page.works.flatMap((g) => g.steps).find((s) => s.work.key === b.check_id)?.work.name ?? b.step}: ${found}`
      : `${b.step}`;
  /** Whether an entry names the part that is asked for, by itself or by its coats. */
  function isAbout(e: JobPage["log"][number]): boolean {
    if (!shownPart) return true;
    const text = JSON.stringify(e.body);
    const coats = page.state.parts.find((p) => p.part_id === shownPart)?.films.map((f) => f.coat_id) ?? [];
    return text.includes(shownPart) || coats.some((id) => text.includes(id));
  }
  /** What kinds of entry stand together in the filter. */
  const KINDS: Record<string, string[]> = {
    coats: ["coat_started", "coat_done", "coat_paused", "coat_resumed", "coat_removed", "coats_set"],
    mixes: ["pour", "batch_mixed", "batch_closed"],
    steps: ["step_done", "step_failed", "unmasked", "heat_set", "moved"],
    readings: ["climate_read", "film_read", "gate_checked"],
    words: ["note", "defect", "damage_found", "overruled", "strike", "corrected"],
    service: ["in_service", "inspected", "cleaned", "touched_up"],
  };
  let shownKind = $state("");
  const isKind = (e: JobPage["log"][number]): boolean => !shownKind || (KINDS[shownKind] ?? []).includes(e.kind);
  type Line = JobPage["log"][number];
  /** What was tapped here and is not with the server yet, newest first, above what is. */
  const waiting = $derived.by((): Line[] => {
    const mine = outbox.pending.filter((e) => e.job_id === job && e.kind !== "strike" && !page.log.some((l) => l.id === e.id));
    const struck = new Set(outbox.pending.filter((e) => e.kind === "strike").map((e) => e.body.target_id));
    return mine
      .map((e) => ({
        id: e.id,
        seq: 0,
        kind: e.kind,
        at: e.at,
        actor: session.who?.user ?? "",
        outcome: struck.has(e.id) ? "struck" : "waiting",
        reason: "",
        body: e.body,
      }))
      .toReversed();
  });
  function line(e: JobPage["log"][number]): string {
    const b = e.body as Record<string, unknown>;
    const part = typeof b.part_id === "string" ? ` ${partName(page, b.part_id)}` : "";
    const words: Record<string, string> = {
      pour: say.log.added(component(b.component), typeof b.ml === "number" ? volume(b.ml) : "?"),
      step_done: looked(b, say.common.pass),
      step_failed: looked(b, say.common.fail),
      damage_found: say.log.damage(String(b.text)),
      climate_read: say.log.air(temp(Number(b.air_degc)), Math.round(Number(b.rh_frac) * 100)),
      in_service: say.log.putIntoService,
      inspected: say.log.inspected(b.note ? `: ${b.note}` : ""),
      cleaned: say.log.cleaned,
      touched_up: say.log.touchedUp(b.what ? `: ${b.what}` : ""),
      coat_removed: say.log.removed(String(b.how)),
      overruled: say.log.stopOverridden(String(b.rule_id).replaceAll(/[._]/g, " "), String(b.reason)),
      facts_adopted: `${b.reason || say.log.surveyAndSystem}`,
      note: `"${b.text}"`,
      defect: say.log.defect(String(b.type)),
      strike: say.log.voidWord(String(b.reason)),
      job_ended: `${b.how === "closed" ? say.ending.closed : say.ending.abandoned}${b.reason ? `: ${b.reason}` : ""}`,
      job_reopened: say.ending.reopened,
      corrected: say.ending.corrected(String(b.was) || say.common.none, String(b.now) || say.common.none),
      unmasked: say.log.maskingRemoved((say.edges as Record<string, string>)[String(b.result)] ?? String(b.result)),
      coats_set: say.taps.coatsSet(Number(b.coats), b.reason ? `: ${b.reason}` : ""),
      heat_set: b.on ? say.taps.heatOn(show("degc", Number(b.surface_degc), 0)) : say.taps.heatOff,
      plan_adopted: say.log.planAdopted,
      coat_paused: say.actions.paused,
      coat_resumed: say.actions.resumed,
      moved: say.told.moved,
      archived: b.archived ? say.ending.archived : say.ending.unarchived,
    };
    const coats = b.coats as { part_id: string; layer_id: string; n: number }[] | undefined;
    if (coats?.[0]) {
      const sheet = page.facts.layers.find((l) => l.id === coats[0]!.layer_id)?.sheet_id ?? "";
      return say.log.coatStarted(
        coats.length > 1 ? say.log.parts(coats.length) : partName(page, coats[0].part_id),
        `${page.facts.sheets[sheet]?.name ?? ""} ${coats[0].n}`.trim(),
        [b.direction, b.painter, b.gun]
          .filter(Boolean)
          .map((x) => `, ${x}`)
          .join(""),
      );
    }
    const ended = b.coat_ids as string[] | undefined;
    if (e.kind === "coat_done" && ended?.[0]) {
      const on = page.state.parts.flatMap((p) => p.films.map((film) => ({ film, id: p.part_id }))).find((x) => x.film.coat_id === ended[0]);
      if (on)
        return say.log.coatDone(
          ended.length > 1 ? say.log.parts(ended.length) : partName(page, on.id),
          `${page.facts.sheets[on.film.sheet_id]?.name ?? ""} ${on.film.n}`,
          on.film.done_at ? duration(on.film.done_at - on.film.started_at) : "",
        );
    }
    const mixed = page.facts.sheets[String(b.sheet_id)]?.name ?? "";
    if (e.kind === "batch_mixed") return say.log.batchMixed(mixed);
    if (e.kind === "batch_closed") return say.log.batchClosed(WHY[String(b.why)] ?? String(b.why));
    const read = (b.um as number[] | undefined) ?? [];
    if (e.kind === "film_read" && read.length) return say.log.gaugeRead(read.map((x) => bare("um", x)).join(", "), unit("um")) + part;
    if (e.kind === "film_read")
      return say.log.gaugeRead(`${bare("um", Number(b.low_um))}–${bare("um", Number(b.high_um))}`, unit("um")) + part;
    if (e.kind === "gate_checked")
      return say.log.tried(String(b.gate).replaceAll("_", " "), b.passed ? say.common.pass : say.common.fail) + part;
    return (words[e.kind] ?? e.kind.replaceAll("_", " ")) + part;
  }
</script>

<section class="entries" aria-label={say.log.logEntries}>
  {#if session.mayWrite}
    <Taps {page} {partId} />
    {#if striking}
      <form onsubmit={strike} {@attach opened(() => (striking = ""))}>
        <div class="row">
          {#each say.log.reasons as word (word)}<button
              type="button"
              class="btn small"
              onclick={() => {
                reason = word;
                void strike();
              }}>{word}</button
            >{/each}
        </div>
        <label>{say.log.reasonForVoidingIt} <input bind:value={reason} /></label>
        <button class="btn small go">{say.common.save}</button>
        {#if refusal}<p role="alert">{refusal}</p>{/if}
      </form>
    {/if}
  {/if}
  {@render children?.()}
  <h2>{say.log.log}</h2>
  <div class="row">
    {#if page.facts.parts.length > 1}<label class="only"
        >{say.log.only}
        <select bind:value={shownPart}
          ><option value="">{say.log.allParts}</option>{#each page.facts.parts as p (p.id)}<option value={p.id}>{p.name}</option
            >{/each}</select
        ></label
      >{/if}
    <label class="only"
      >{say.taps.kinds}
      <select bind:value={shownKind}
        ><option value="">{say.taps.allKinds}</option>{#each Object.keys(KINDS) as k (k)}<option value={k}
            >{(say.kinds as Record<string, string>)[k]}</option
          >{/each}</select
      ></label
    >
  </div>
  <ol>
    {#each [...waiting, ...page.log].filter((e) => isAbout(e) && isKind(e)) as e (e.id)}
      <li class:struck={e.outcome === "struck"}>
        <span class="t">{when(e.at, serverClock.now)}</span><span
          >{line(e)}{#each (e.body as { photo_ids?: string[] }).photo_ids ?? [] as id (id)}{#if isHere(id)}<Photo
                {id}
                alt={say.taps.picture}
              />{:else}<a href={`/api/photos/${id}`} target="_blank" rel="noopener"><Photo {id} alt={say.taps.picture} /></a
              >{/if}{/each}{e.outcome === "flagged" ? say.log.notCounted(e.reason) : e.outcome === "waiting" ? say.log.waits : ""}</span
        >
        <span class="mute">{e.actor}</span>
        {#if session.mayWrite && ["applied", "waiting"].includes(e.outcome) && e.kind !== "facts_adopted"}
          <button
            aria-label={say.log.voidWord2(line(e))}
            onclick={() => {
              striking = e.id;
              reason = refusal = "";
            }}>{say.log.voidWord3}</button
          >
        {/if}
      </li>
    {/each}
  </ol>
</section>

<style>
  .entries {
    padding: 10px 16px 24px;
    display: grid;
    gap: 10px;
  }
  .row {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
  }
  form {
    display: flex;
    gap: 10px;
    align-items: end;
    flex-wrap: wrap;
  }
  label {
    font-weight: 640;
    font-size: 14px;
    flex: 1 1 110px;
  }
  ol {
    list-style: none;
    font-size: 14px;
  }
  li {
    display: grid;
    grid-template-columns: 78px 1fr auto auto;
    gap: 8px;
    padding: 2px 0;
    border-top: 1px solid var(--rule);
    align-items: center;
  }
  li :global(img) {
    height: 44px;
    vertical-align: middle;
    margin-left: 8px;
    border: 1px solid var(--edge);
  }
  li button {
    font: inherit;
    font-size: 13px;
    background: none;
    border: 0;
    text-decoration: underline;
    cursor: pointer;
    min-height: 32px;
    color: var(--ink2);
  }
  .struck {
    text-decoration: line-through;
    color: var(--ink3);
  }
  .t {
    font-stretch: 84%;
  }
  @media (max-width: 1000px) {
    li :global(img) {
      height: 44px;
      vertical-align: middle;
      margin-left: 8px;
      border: 1px solid var(--edge);
    }
    li button {
      min-height: 44px;
    }
  }
</style>
