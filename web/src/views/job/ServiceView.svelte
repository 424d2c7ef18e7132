<script lang="ts">
  /** Service: how long it has held against what was claimed, what is due, and what was found. */
  import type { JobPage, Schemas } from "../../api/client";
  import { partName } from "../../lib/actions";
  import { serverClock } from "../../lib/clock.svelte";
  import { date, duration } from "../../lib/format";
  import { keyed } from "../../lib/keyed";
  import { outbox } from "../../lib/outbox.svelte";
  import { ratings } from "../../lib/ratings";
  import { session } from "../../lib/session.svelte";
  import { unmet } from "../../lib/judged";
  import Found from "../../ui/Found.svelte";
  import Undo from "../../ui/Undo.svelte";
  import LookForm from "./LookForm.svelte";
  import Photo from "../../ui/Photo.svelte";
  import WhyNote from "../../ui/WhyNote.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  type Life = Schemas["PartService"];
  let note = $state("");
  let picked = $state<string[]>([]);
  let claimMonths = $state("");
  let claimText = $state("");
  let refusal = $state("");
  const now = $derived(serverClock.now);
  const RATINGS = ratings();
  const lives = $derived(page.state.service ?? []);
  const running = $derived(lives.filter((x) => x.ended_at === null));
  const ready = $derived(
    page.state.parts.filter((p) => p.films.length > 0 && p.due_layer_id === null && !running.some((x) => x.part_id === p.part_id)),
  );
  const still = $derived(running.map((x) => x.part_id).filter((id) => picked.includes(id)));
  /** One part goes without saying; of more than one nobody guesses which. */
  const chosen = $derived(running.length === 1 ? running.map((x) => x.part_id) : still);
  /** What is being looked at, part by part: a check that is due, or the whole part. */
  let looking = $state.raw<{ parts: string[]; care: { key: string; what: string } | null } | null>(null);
  type Seen = { at: number; id: string; text: string; photos: readonly string[] };
  /** What was seen and done to a part since, newest first. */
  const seen = (x: Life): Seen[] =>
    [
      ...x.inspections.map((i) => ({
        at: i.at,
        id: i.entry_id,
        text:
          (i.rating === null || i.rating === undefined ? say.service.inspected : say.service.of5(i.rating, RATINGS[i.rating] ?? "")) +
          (i.note ? `: ${i.note}` : ""),
        photos: i.photo_ids ?? [],
      })),
      ...(x.cleanings ?? []).map((c) => ({
        at: c.at,
        id: c.entry_id,
        text: [x.due.find((d) => d.key === c.care_key)?.what ?? say.service.cleaned, c.how].filter(Boolean).join(": "),
        photos: [],
      })),
    ].toSorted((a, b) => b.at - a.at);
  /** The same thing due on several parts at once is one line and one tap. */
  const due = $derived.by(() => {
    const rows: (Pick<Schemas["Due"], "key" | "kind" | "what" | "why" | "usual"> & { at: number; parts: string[]; last: number | null })[] =
      [];
    for (const life of running)
      for (const d of life.due) {
        if (d.due_at == null) continue;
        const row = rows.find((r) => r.key === d.key && r.at === d.due_at);
        if (row) row.parts.push(life.part_id);
        else rows.push({ ...d, at: d.due_at, parts: [life.part_id], last: d.last_at ?? null });
      }
    return rows.toSorted((a, b) => a.at - b.at);
  });
  const gates = (id: string) => page.state.parts.find((p) => p.part_id === id)?.gates ?? [];
  /** The gate that lets a part go: immersion where there is one, else use. */
  const gate = (id: string) =>
    gates(id).find((g) => g.name === "immerse_from") ?? gates(id).find((g) => g.name === "use") ?? gates(id).find((g) => g.name === "full");
  /** What has to be ticked before a part goes out: covers off the ports. */
  const owed = $derived(ready.flatMap((p) => p.must_after ?? []).filter((x, i, all) => all.indexOf(x) === i));
  const waits = $derived(ready.map((p) => gate(p.part_id)).filter((g) => g && (g.late_at === null || (g.late_at ?? 0) > now)));

  /** What the log says ruins a part that would go out: only the owner's reason lets it. */
  const ruined = $derived(unmet(page).filter((f) => f.severity === "ruins" && ready.some((p) => p.part_id === f.part_id)));
  let reason = $state("");

  async function putIn(): Promise<void> {
    refusal = "";
    if (ruined.length && (session.who?.role !== "owner" || reason.trim().length < 4)) return void (refusal = say.found.cannotUse);
    const months = claimMonths.trim() ? Number(claimMonths.replace(",", ".")) : null;
    if (months !== null && !(months > 0 && months <= 1200)) return void (refusal = say.service.promisedEnteredExpectedMonthsA(claimMonths));
    const claim = { life_s: months === null ? null : Math.round(months * 30.4375 * 86400), text: claimText.trim() };
    await outbox.add(
      page.head.id,
      [{ kind: "in_service", body: { part_ids: ready.map((p) => p.part_id), claim, ...(ruined.length && { reason: reason.trim() }) } }],
      say.common.inService,
    );
  }
  const brushed = (d: { key: string; what: string; parts: string[] }): Promise<string[]> =>
    outbox.add(page.head.id, [{ kind: "cleaned", body: { part_ids: d.parts, care_key: d.key, how: "" } }], `${d.what}: done`);
  /** What was seen belongs to the one look: written down, the field is empty for the next. */
  async function noted(kind: "cleaned" | "touched_up", body: Record<string, unknown>, text: string): Promise<void> {
    const said = note;
    await outbox.add(page.head.id, [{ kind, body }], text);
    if (note === said) note = "";
  }
  function takeOff(was: "sound" | "failed"): Promise<string[]> {
    const coats = page.state.parts.filter((p) => chosen.includes(p.part_id)).flatMap((p) => p.films.map((f) => f.coat_id));
    const peel = Object.values(page.facts.sheets).some((s) => s.properties.peelable);
    return outbox.add(
      page.head.id,
      [{ kind: "coat_removed", body: { coat_ids: coats, how: peel ? "peeled" : "stripped", was } }],
      was === "sound" ? say.service.removedStillSound : say.service.removedItFailed,
    );
  }
  const held = (x: Life): number => (x.ended_at ?? now) - x.in_service_at;
  const share = (x: Life): number | null => (x.claim_until_at == null ? null : held(x) / (x.claim_until_at - x.in_service_at));
  const toggle = (id: string): void => void (picked = picked.includes(id) ? picked.filter((x) => x !== id) : [...picked, id]);
</script>

<div class="service">
  <section class="main">
    {#if ready.length && session.mayWrite}
      <div class="putin">
        <h2>{say.service.readyForService(ready.length === 1 ? partName(page, ready[0]!.part_id) : say.service.parts(ready.length))}</h2>
        {#if waits.length}<p class="refusal">
            <b>{say.service.notYet}</b>
            {say.service.ifYouLogItNow(
              waits[0]!.name === "immerse_from" ? say.service.earliestLaunch : say.service.earliestUse,
              waits[0]!.late_at ? say.service.text(date(waits[0]!.late_at)) : say.service.isNotReachedAtThe,
            )}
          </p>{/if}
        <div class="row">
          <label
            >{say.service.promisedLifeMonths}
            <input inputmode="decimal" bind:value={claimMonths} placeholder={say.common.asOnTheDataSheet} /></label
          >
          <label class="grow">{say.service.whoPromisedIt} <input bind:value={claimText} placeholder={say.service.optional} /></label>
          <button class="btn go" disabled={owed.length > 0} onclick={putIn}
            >{page.head.asset_kind === "vessel" ? say.service.launchedInService : say.common.inService}</button
          >
        </div>
        {#if ruined.length}
          <Found {page} findings={ruined} />
          {#if session.who?.role === "owner"}<label>{say.found.ownersReason} <input bind:value={reason} maxlength="400" /></label>{:else}<p
              class="refusal"
            >
              {say.found.cannotUse}
            </p>{/if}
        {/if}
        {#if owed.length}<p class="refusal">
            <b>{say.common.onHold}</b>
            {say.service.completeBeforeItGoesOut(owed.join(say.common.and))}
            <a class="line" href={`#/jobs/${page.head.id}/stack`}>{say.common.openTheStepList}</a>
          </p>{/if}
        {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
      </div>
    {/if}
    {#if !lives.length && !ready.length}<p>
        {say.service.nothingInServiceYetAfter}
      </p>{/if}
    {#each keyed(lives, (x) => `${x.part_id} ${x.in_service_at}`) as { key, row: x } (key)}
      {@const s = share(x)}
      <div class="life">
        <div class="ttl">
          <h2>{partName(page, x.part_id)}</h2>
          <p>
            <span class="num">{duration(held(x))}</span>
            {x.ended_at ? say.service.lasted(x.ended_how, x.ended_was === "unknown" ? "" : x.ended_was) : say.service.soFar}
          </p>
        </div>
        <svg
          width="100%"
          height="30"
          viewBox="0 0 1000 30"
          preserveAspectRatio="none"
          role="img"
          aria-label={s === null
            ? say.service.inServiceNoClaimedLife(duration(held(x)))
            : say.service.inServiceOfTheClaimed(duration(held(x)), Math.round(100 * s))}
        >
          <rect
            width="1000"
            height="30"
            fill="var(--field)"
            stroke="var(--edge)"
            stroke-dasharray="6 4"
            vector-effect="non-scaling-stroke"
          />
          <rect
            width={Math.min(1000, (1000 * (s ?? 0)) / Math.max(1, s ?? 1))}
            height="30"
            fill={x.ended_at ? "var(--b2)" : "var(--b4)"}
            stroke="var(--ink)"
            vector-effect="non-scaling-stroke"
          />
          {#if (s ?? 0) > 1}<line
              x1={1000 / (s ?? 1)}
              x2={1000 / (s ?? 1)}
              y1="0"
              y2="30"
              stroke="var(--ink)"
              stroke-width="3"
              vector-effect="non-scaling-stroke"
            />{/if}
        </svg>
        <p>
          {say.service.inServiceSince(
            date(x.in_service_at),
            x.claim_until_at == null
              ? say.service.noClaimedLife
              : say.service.claimedLifeUntil(date(x.claim_until_at), x.claim_text ? `, ${x.claim_text}` : ""),
          )}
          {#if x.touched_up_at.length}{say.service.touchedUp(x.touched_up_at.map(date).join(", "))}{/if}
        </p>
        {#each seen(x) as s (s.id)}<div class="insp">
            <b>{date(s.at)}</b>
            {s.text}
            {#if s.photos.length}<div class="photos">
                {#each s.photos as id (id)}<Photo {id} alt={s.text} />{/each}
              </div>{/if}
          </div>{/each}
      </div>
    {/each}
  </section>
  <aside>
    {#if looking}{#key looking}<LookForm {page} parts={looking.parts} care={looking.care} done={() => (looking = null)} />{/key}{/if}
    <h2>{say.service.due}</h2>
    {#each keyed(due, (d) => d.key) as { key, row: d } (key)}
      <div class="due" class:late={d.at <= now}>
        <p>
          <b>{d.what}</b><br />{d.at <= now ? say.service.since(date(d.at)) : date(d.at)}, {d.parts.length === 1
            ? partName(page, d.parts[0]!)
            : say.service.parts(d.parts.length)}{d.last ? say.service.last(date(d.last)) : ""}
          <WhyNote why={d.why} />{#if d.usual}<br /><span class="mute">{say.service.usual}</span>{/if}
        </p>
        {#if session.mayWrite}<button
            class="btn small"
            onclick={() => (d.kind === "clean" ? brushed(d) : (looking = { parts: d.parts, care: { key: d.key, what: d.what } }))}
            >{d.kind === "clean" ? say.service.done : say.service.look}</button
          >{/if}
      </div>
    {:else}<p class="mute">{say.service.nothingIsDue}</p>{/each}
    {#if running.length}<p><a class="line tall" href="/api/due.ics" download>{say.common.addWhatIsDueTo}</a></p>{/if}
    {#if running.length && session.mayWrite && !looking}
      <button class="btn go" onclick={() => (looking = { parts: running.map((x) => x.part_id), care: null })}
        >{page.facts.parts.some((p) => p.must_survive?.includes("immersion")) ? say.service.haulOutLook : say.service.lookAtAll}</button
      >
      <p class="mute">{say.service.aLookAnswers}</p>
      <h2>{say.service.cleaningAndTouchUp}</h2>
      <div class="row" role="group" aria-label={say.service.partsInspected}>
        {#each running as x (x.part_id)}<button
            class="btn small"
            class:go={chosen.includes(x.part_id)}
            aria-pressed={chosen.includes(x.part_id)}
            onclick={() => toggle(x.part_id)}>{partName(page, x.part_id)}</button
          >{/each}
      </div>
      {#if running.length > 1 && !chosen.length}<p class="mute">
          {say.service.tickTheParts}
          <button class="btn small" onclick={() => (picked = running.map((x) => x.part_id))}>{say.service.allOfThem}</button>
        </p>{/if}
      <label>{say.service.howOrWhat} <input bind:value={note} maxlength="400" /></label>
      <div class="row">
        <button
          class="btn small"
          disabled={!chosen.length}
          onclick={() => noted("cleaned", { part_ids: chosen, how: note.trim() }, say.service.cleaned)}>{say.service.cleaned}</button
        ><button
          class="btn small"
          disabled={!chosen.length}
          onclick={() => noted("touched_up", { part_ids: chosen, what: note.trim() }, say.service.touchedUp2)}
          >{say.service.touchedUp2}</button
        >
      </div>
      <div class="row">
        <button class="btn small" disabled={!chosen.length} onclick={() => takeOff("sound")}>{say.service.removedStillSound}</button><button
          class="btn small"
          disabled={!chosen.length}
          onclick={() => takeOff("failed")}>{say.service.removedItFailed}</button
        >
      </div>
      <p class="mute">{say.service.onlyFailedCountsAsThe}</p>
    {/if}
    <Undo jobId={page.head.id} />
  </aside>
</div>

<style>
  .service {
    display: grid;
    grid-template-columns: 1fr 400px;
    flex: 1;
  }
  .main {
    padding: 16px 24px;
    display: grid;
    gap: 18px;
    align-content: start;
  }
  aside {
    border-left: 2px solid var(--ink);
    padding: 16px 20px;
    display: grid;
    gap: 10px;
    align-content: start;
    background: var(--field);
  }
  aside h2:not(:first-child) {
    margin-top: 10px;
    border-top: 1px solid var(--rule);
    padding-top: 10px;
  }
  .life {
    display: grid;
    gap: 6px;
    border-top: 2px solid var(--edge);
    padding-top: 10px;
  }
  .ttl {
    display: flex;
    justify-content: space-between;
    align-items: end;
    gap: 12px;
  }
  .ttl .num {
    font-size: 40px;
  }
  .row {
    display: flex;
    gap: 10px;
    flex-wrap: wrap;
    align-items: end;
  }
  .grow {
    flex: 1;
  }
  label {
    font-weight: 640;
    font-size: 14px;
  }
  .putin {
    background: var(--lift);
    padding: 14px;
    display: grid;
    gap: 10px;
  }
  .due .btn {
    white-space: nowrap;
  }
  .due {
    display: flex;
    justify-content: space-between;
    gap: 10px;
    align-items: center;
    border-top: 1px solid var(--rule);
    padding-top: 8px;
  }
  .due.late {
    box-shadow: inset 6px 0 var(--ink);
    padding-left: 12px;
  }
  .tall {
    min-height: 44px;
    display: inline-flex;
    align-items: center;
  }
  .photos {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    margin-top: 6px;
  }
  .photos :global(img) {
    height: 110px;
  }
  .insp {
    border-left: 4px solid var(--edge);
    padding-left: 10px;
  }
  .refusal {
    border-left: 6px solid var(--ink);
    padding-left: 10px;
  }
  @media (max-width: 900px) {
    .service {
      grid-template-columns: 1fr;
    }
    aside {
      border-left: 0;
      order: -1;
      border-bottom: 2px solid var(--ink);
    }
    .main {
      padding: 12px 16px;
    }
  }
</style>
