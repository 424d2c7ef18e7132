<script lang="ts">
  /** What somebody does in the plan: what they may do, their days and hours, when they are away. */
  import { api, inWords, type Schemas } from "../../api/client";
  import { keyed } from "../../lib/keyed";
  import { weekdays, when } from "../../lib/format";
  import { serverClock } from "../../lib/clock.svelte";
  import { timeTyped } from "../../lib/times";
  import { say } from "../../words";

  type Crew = Schemas["CrewOut"];
  type Props = { username: string; crew: Crew | null; rights: Record<string, string>; changed: () => void };
  let { username, crew, rights, changed }: Props = $props();
  const asForm = (c: Crew | null) => ({
    may: c?.may ?? ["coat"],
    days: c?.days ?? [],
    starts: c?.starts?.slice(0, 5) ?? "",
    ends: c?.ends?.slice(0, 5) ?? "",
    away: c?.away ?? [],
  });
  // What is being ticked outlives an answer about somebody else.
  // svelte-ignore state_referenced_locally
  let form = $state(asForm(crew));
  let from = $state("");
  let to = $state("");
  let why = $state("");
  let refusal = $state("");
  let said = $state("");
  let busy = $state(false);

  function toggled<T>(list: T[], one: T): T[] {
    return list.includes(one) ? list.filter((x) => x !== one) : [...list, one];
  }
  async function keep(in_plan: boolean, form_ = form): Promise<void> {
    [refusal, said, busy] = ["", "", true];
    const body = { in_plan, may: form_.may, days: form_.days, starts: form_.starts || null, ends: form_.ends || null, away: form_.away };
    const { data, error } = await api.PUT("/api/people/{username}/crew", { params: { path: { username } }, body });
    busy = false;
    if (!data) return void (refusal = inWords(error));
    form = asForm(data.crew ?? null);
    said = in_plan ? say.shop.planCountsOn(username) : say.shop.planDoesNotCountOn(username);
    changed();
  }
  async function addAway(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const [a, b] = [timeTyped(from, serverClock.now), timeTyped(to, serverClock.now)];
    if (a === null || b === null || !(b > a)) return void (refusal = say.shop.awayExpected);
    await keep(true, { ...form, away: [...form.away, { from_at: a, to_at: b, why: why.trim() }] });
    if (!refusal) [from, to, why] = ["", "", ""];
  }
</script>

<fieldset class="crew">
  <legend>{say.shop.inThePlan}</legend>
  {#if refusal}<p class="refusal" role="alert"><b>{refusal}</b></p>{/if}
  {#if said}<p role="status">{said}</p>{/if}
  <form onsubmit={(e) => (e.preventDefault(), keep(true))} aria-label={say.shop.mayAndHours(username)}>
    <div class="ticks" role="group" aria-label={say.shop.may}>
      {#each Object.entries(rights) as [id, words] (id)}
        <label class="tick"
          ><input type="checkbox" checked={form.may.includes(id)} onchange={() => (form.may = toggled(form.may, id))} /> {words}</label
        >
      {/each}
    </div>
    <div class="ticks" role="group" aria-label={say.shop.days}>
      {#each weekdays() as name, day (day)}
        <label class="tick"
          ><input
            type="checkbox"
            checked={!form.days.length || form.days.includes(day)}
            onchange={() => (form.days = toggled(form.days.length ? form.days : [0, 1, 2, 3, 4, 5, 6], day))}
          />
          {name}</label
        >
      {/each}
    </div>
    <label>{say.shop.comes} <input type="time" bind:value={form.starts} /></label>
    <label>{say.shop.goes} <input type="time" bind:value={form.ends} /></label>
    <button class="btn go" disabled={busy}>{crew ? say.common.save : say.shop.countOn}</button>
    {#if crew}<button class="btn" type="button" disabled={busy} onclick={() => keep(false)}>{say.shop.doNotCountOn}</button>{/if}
  </form>
  {#if crew}
    {#if form.away.length}
      <ul>
        {#each keyed(form.away, (a) => String(a.from_at)) as { key, row: a } (key)}
          <li>
            {say.shop.awayFromTo(when(a.from_at, serverClock.now), when(a.to_at, serverClock.now), a.why ?? "")}
            <button class="btn small" onclick={() => keep(true, { ...form, away: form.away.filter((x) => x !== a) })}
              >{say.common.remove}</button
            >
          </li>
        {/each}
      </ul>
    {/if}
    <form onsubmit={addAway} aria-label={say.shop.awayOf(username)}>
      <label>{say.shop.awayFrom} <input type="datetime-local" bind:value={from} required /></label>
      <label>{say.shop.awayTo} <input type="datetime-local" bind:value={to} required /></label>
      <label>{say.shop.awayWhy} <input bind:value={why} maxlength="80" /></label>
      <button class="btn" disabled={busy}>{say.shop.addAbsence}</button>
    </form>
  {/if}
</fieldset>

<style>
  .crew {
    border: 0;
    border-top: 1px solid var(--rule);
    padding: 8px 0 0;
    display: grid;
    gap: 8px;
  }
  legend {
    font-weight: 760;
    float: left;
    width: 100%;
  }
  form {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    align-items: end;
  }
  .ticks {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 16px;
    flex: 1 1 100%;
  }
  .tick {
    display: flex;
    gap: 8px;
    align-items: center;
    min-height: 44px;
  }
  .tick input {
    width: 22px;
    height: 22px;
  }
  li {
    display: flex;
    gap: 10px;
    align-items: center;
    justify-content: space-between;
  }
</style>
