<script lang="ts">
  /** Record: what lasted, against what was claimed, and what came of it. */
  import { api, type Schemas } from "../../api/client";
  import { Answer } from "../../lib/answer.svelte";
  import { cards } from "../../lib/cards";
  import { serverClock } from "../../lib/clock.svelte";
  import { date, duration, money, percent, system, unit, when } from "../../lib/format";
  import { toShown } from "../../lib/units";
  import CompareLives from "./CompareLives.svelte";
  import Pages from "../../ui/Pages.svelte";
  import { say } from "../../words";

  const told = new Answer<Schemas["RecordPage"]>();
  const page = $derived(told.data);
  let pageNo = $state(1);
  const now = $derived(serverClock.now);
  $effect(() => {
    const query = { page: pageNo };
    void told.ask(() => api.GET("/api/record", { params: { query } }));
  });
  /** One ruler for all bars: the longest that was claimed or held. */
  const longest = $derived(Math.max(1, ...(page?.lines ?? []).map((l) => Math.max(l.held_s, l.claim_s ?? 0))));
  /** How long half of them last, with its doubt; nothing where there are too few failures. */
  const lasts = (m: Schemas["RecordPage"]["materials"][number]): string => {
    if (m.median_s != null)
      return `. ${say.durability.halfLast(duration(m.median_s), duration(m.low_s ?? m.median_s), m.high_s == null ? say.durability.noEnd : duration(m.high_s))}`;
    return m.failed >= 5 ? `. ${say.durability.moreThanHalfHold(duration(m.longest_s))}` : "";
  };
  /** What the claim comes to against what was seen, how its failures come, and what a year of it costs. */
  type Material = Schemas["RecordPage"]["materials"][number];
  const shows = (m: Material): string =>
    [
      m.expected_s == null ? "" : say.durability.expected(duration(m.expected_s)),
      m.claim_verdict ? say.durability.verdict[m.claim_verdict]!(percent(m.claim_share ?? 0), duration(m.claim_s ?? 0)) : "",
      m.wear ? say.durability.wear[m.wear] : "",
    ]
      .filter(Boolean)
      .join(" ");
  const costs = (m: Material): string =>
    m.cost_a_year == null ? say.common.priceNotSet : money(m.cost_a_year / toShown("m2", 1, system()));
  const ends = (l: Schemas["RecordLine"]): string =>
    l.ended_at
      ? `${l.ended_how} ${date(l.ended_at)}${l.ended_was === "failed" ? say.durability.failed : l.ended_was === "sound" ? say.durability.stillSound : ""}`
      : say.common.inUse;
</script>

<div class="page">
  <div class="ttl">
    <h1>{say.common.durability}</h1>
    <a class="line" href="/api/due.ics" download>{say.common.addWhatIsDueTo}</a>
  </div>
  {#if told.problem}<p role="alert"><b>{told.problem}</b></p>{/if}
  {#if page && !page.lines.length}<p>
      {say.durability.nothingInServiceYetAfter}
    </p>{/if}
  {#if page?.lines.length}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex (it scrolls, and keys must reach it) -->
    <div class="scroll" tabindex="0" role="region" aria-label={say.common.durability}>
      <table class="cards" {@attach cards}>
        <thead
          ><tr
            ><th>{say.durability.finish}</th><th>{say.durability.inUse}</th><th>{say.durability.removedSound}</th><th
              >{say.durability.failed2}</th
            ><th>{say.durability.longestLife}</th><th>{say.durability.claimed}</th><th>{say.durability.whatThatShows}</th><th
              >{say.durability.costAYear(unit("m2"))}</th
            ></tr
          ></thead
        >
        <tbody
          >{#each page.materials as m, i (i)}<tr
              ><td><b>{m.material}</b></td><td>{m.running}</td><td>{m.sound}</td><td>{m.failed}</td><td>{duration(m.longest_s)}</td><td
                >{m.claim_s == null ? say.durability.nothing : duration(m.claim_s)}</td
              ><td>{m.said}{lasts(m)}{shows(m) ? `. ${shows(m)}` : ""}</td><td>{costs(m)}</td></tr
            >{/each}</tbody
        >
      </table>
    </div>
    {#if page.groups.length}<CompareLives groups={page.groups} />{/if}
    <h2>{say.durability.lifeOfEachPartAgainst}</h2>
    <p class="mute">{say.durability.solidLifeSoFarDashed(duration(longest))}</p>
    <ol>
      {#each page.lines as l, i (i)}
        <li>
          <a href={`#/jobs/${l.job_id}/service`}>
            <span class="what"><b>{l.asset}, {l.part}</b><span>{l.material}. {l.title}</span></span>
            <svg
              width="100%"
              height="28"
              viewBox="0 0 1000 28"
              preserveAspectRatio="none"
              role="img"
              aria-label={say.durability.lasted(duration(l.held_s), l.claim_s == null ? "" : say.durability.ofClaimed(duration(l.claim_s)))}
            >
              {#if l.claim_s != null}<rect
                  y="1"
                  width={(1000 * l.claim_s) / longest}
                  height="26"
                  fill="none"
                  stroke="var(--edge)"
                  stroke-width="1.5"
                  stroke-dasharray="6 4"
                  vector-effect="non-scaling-stroke"
                />{/if}
              <rect
                y="6"
                width={(1000 * l.held_s) / longest}
                height="16"
                fill={l.ended_was === "failed" ? "url(#p-nogo)" : l.ended_at ? "var(--b2)" : "var(--b4)"}
                stroke="var(--ink)"
                vector-effect="non-scaling-stroke"
              />
            </svg>
            <span class="told"
              ><b>{duration(l.held_s)}</b>
              {ends(l)}<br /><span class="mute"
                >{l.rating == null ? say.durability.notRatedYet : say.durability.lastOf5(l.rating)}{l.next_due_at
                  ? `, ${l.next_due_at <= now ? say.durability.dueSince : say.durability.due} ${when(l.next_due_at, now)}`
                  : ""}</span
              ></span
            >
          </a>
        </li>
      {/each}
    </ol>
    <Pages of={page.of} page={page.page} pages={page.pages} what={say.durability.countedParts} turn={(n) => (pageNo = n)} />
  {/if}
</div>

<style>
  .page {
    padding: 16px 24px;
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 12px;
    align-content: start;
  }
  .ttl {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 16px;
  }
  h1 {
    font-size: 34px;
  }
  .scroll {
    overflow-x: auto;
  }
  table {
    width: 100%;
    background: var(--field);
    font-size: 14.5px;
  }
  th,
  td {
    padding: 7px 12px;
    border-top: 1px solid var(--rule);
    text-align: left;
  }
  ol {
    list-style: none;
  }
  li a {
    display: grid;
    grid-template-columns: 280px 1fr 270px;
    gap: 18px;
    align-items: center;
    min-height: 56px;
    padding: 6px 12px;
    background: var(--field);
    border-top: 2px solid var(--edge);
    font-size: 14.5px;
  }
  .what b {
    display: block;
    font-stretch: 74%;
    font-weight: 780;
    font-size: 18px;
    line-height: 1.1;
  }
  .told b {
    font-stretch: 66%;
    font-weight: 800;
    font-size: 20px;
  }
  @media (max-width: 900px) {
    li a {
      grid-template-columns: 1fr;
      gap: 6px;
    }
    .page {
      padding: 12px 16px;
    }
  }
</style>
