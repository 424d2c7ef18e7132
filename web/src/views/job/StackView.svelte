<script lang="ts">
  /** Stack: the chosen layers to scale, what the sheets say at each join, and the way to change them. */
  import { inReadersWords, type JobPage } from "../../api/client";
  import LayerSection from "../../figures/LayerSection.svelte";
  import { stepWord } from "../../lib/actions";
  import { area, duration, show } from "../../lib/format";
  import { session } from "../../lib/session.svelte";
  import Revise from "../../draft/Revise.svelte";
  import StepList from "./StepList.svelte";
  import { surveyWords } from "../../lib/survey.svelte";
  import { say } from "../../words";

  type Props = { page: JobPage };
  let { page }: Props = $props();
  let changing = $state(false);
  /** Parts by the coating system they have; most jobs have one. */
  const groups = $derived.by(() => {
    const parts = page.facts.parts.filter((p) => !p.retired);
    const own = page.facts.systems ?? [];
    const shared = parts.filter((p) => !own.some((s) => s.part_ids.includes(p.id)));
    const made = [
      { parts: shared, choices: page.facts.choices ?? {} },
      ...own.map((s) => ({ parts: parts.filter((p) => s.part_ids.includes(p.id)), choices: { ...s.choices, ...lasting } })),
    ];
    return made.filter((g) => g.parts.length);
  });
  /** What was asked of the job as a whole. */
  const lasting = $derived(Object.fromEntries(Object.entries(page.facts.choices ?? {}).filter(([k]) => k === "life_s" || k === "ready_s")));
  let at = $state(0);
  const shownGroup = $derived(groups[at] ?? groups[0]);
  const part = $derived(shownGroup?.parts[0] ?? page.facts.parts[0]!);
  const layers = $derived(page.facts.layers.filter((l) => l.part_id === part.id).toSorted((a, b) => a.position - b.position));
  /** On how many patches a material goes, where it does not cover the part. */
  function onPatches(sheetId: string): string {
    const p = layers.find((l) => l.sheet_id === sheetId)?.patches;
    return p ? `, ${say.system.onPatches(p.n, area(p.area_m2))}` : "";
  }
  const shown = $derived(layers.map((l) => ({ sheet: page.facts.sheets[l.sheet_id]!, coats: l.coats, um: l.target_um ?? 0 })));
  /** Joins in the order they are crossed: between materials, and of a material on itself. */
  const joins = $derived(
    layers
      .flatMap((l, i) => {
        const below = i ? [{ lower: layers[i - 1]!.sheet_id, upper: l.sheet_id, position: i }] : [];
        return [...below, ...(l.coats > 1 ? [{ lower: l.sheet_id, upper: l.sheet_id, position: i }] : [])];
      })
      .map((x, i) => {
        const join = page.facts.joins.find((j) => j.lower === x.lower && j.upper === x.upper);
        return {
          ...x,
          number: i + 1,
          same: x.lower === x.upper,
          ok: Boolean(join),
          join,
          tacky: join?.recoat.windows[0]?.tacky ?? false,
          lowerSheet: page.facts.sheets[x.lower]!,
          upperSheet: page.facts.sheets[x.upper]!,
        };
      }),
  );
  function joinSays(w: { from_s: number; to_s?: number | null; at_degc: number; tacky?: boolean }): string {
    const to = w.to_s ? say.system.to(duration(w.to_s)) : say.system.noUpperLimit;
    return say.system.at(
      w.tacky ? say.system.onlyWhileTacky : "",
      w.from_s ? duration(w.from_s) : say.common.atOnce,
      to,
      show("degc", w.at_degc, 0),
    );
  }
  const group = $derived(
    /steel|aluminium|galvanised|chrome/.test(part.substrate)
      ? "metal"
      : /fibre|gelcoat|plastic|vinyl|leather|fabric|polyolefin|acrylic/.test(part.substrate)
        ? "plastic"
        : "paint",
  );
  const choices = $derived<Record<string, string>>(shownGroup?.choices ?? {});
  const asked = $derived(
    [
      (choices.wanted ?? "").replaceAll(" ", ", "),
      choices.life_s ? say.system.toLast(duration(Number(choices.life_s))) : "",
      choices.ready_s ? say.system.backInUseWithin(duration(Number(choices.ready_s))) : "",
      choices.prep ? say.system.prepared(choices.prep.replaceAll("_", " ").replaceAll("+", say.common.then)) : "",
    ].filter(Boolean),
  );
  const overruled = $derived(page.facts.overrules ?? []);
</script>

{#if changing}
  <Revise jobId={page.head.id} what="stack" done={() => (changing = false)} />
{:else}
  <div class="stack">
    <section class="figure">
      {#if groups.length > 1}<div class="row" role="group" aria-label={say.systemForm.systems}>
          {#each groups as g, i (i)}<button class="btn small" class:go={at === i} aria-pressed={at === i} onclick={() => (at = i)}
              >{say.systemForm.systemOf(i + 1, g.parts.map((p) => p.name).join(", "))}</button
            >{/each}
        </div>{/if}
      <LayerSection layers={shown} substrate={surveyWords.surface(part.substrate)} {group} joins={joins.filter((j) => !j.same)} />
    </section>
    <aside>
      {#if session.mayWrite}<div><button class="btn small" onclick={() => (changing = true)}>{say.system.editTheSystem}</button></div>{/if}
      {#if asked.length}<h2>{say.system.requirements}</h2>
        <p>{asked.join("; ")}.</p>{/if}
      <h2>{say.system.recoatWindowsBetweenLayers}</h2>
      {#each joins as j (j.number)}
        <p>
          <b>{j.number}. {j.same ? say.system.overItself(j.lowerSheet.name) : say.system.over(j.upperSheet.name, j.lowerSheet.name)}:</b>
          {#if j.join}{j.join.recoat.windows.map(joinSays).join(say.system.or)}.{j.join.recoat.fix?.length
              ? say.system.ifMissed(j.join.recoat.fix.map(stepWord).join(say.common.and))
              : ""}
          {:else}{say.system.notCoveredByTheData}{/if}
        </p>
      {:else}<p class="mute">{say.system.singleCoatNoRecoatWindow}</p>{/each}
      {#if page.facts.choices?.rejected}
        <h2>{say.common.rejectedOption}</h2>
        <p>
          {page.facts.choices.rejected}. {page.facts.choices.rejected_why
            ? say.system.because(page.facts.choices.rejected_why)
            : say.system.noReasonRecorded}
        </p>
      {/if}
      {#if overruled.length}<h2>{say.system.overrides}</h2>
        {#each overruled as o, i (i)}<p class="haz">{say.system.theOwnersReasonIsIn(o.replaceAll(/[._]/g, " "))}</p>{/each}{/if}
      <h2>{say.common.materials}</h2>
      {#each [...new Map(shown.map((l) => [l.sheet.id, l.sheet])).values()] as s (s.id)}
        <div class="mat">
          <p>
            <b>{s.name}</b>, {inReadersWords(s.kind)}{onPatches(s.id)}. {s.grade === "typical"
              ? say.system.typicalValuesTheProductsData
              : say.system.fromItsDataSheet}
          </p>
          {#each s.hazards as h, i (i)}<p class="haz">{inReadersWords(h)}</p>{/each}
        </div>
      {/each}
    </aside>
  </div>
  <StepList {page} />
{/if}

<style>
  .stack {
    display: grid;
    grid-template-columns: 1fr 400px;
    flex: 1;
  }
  .figure {
    background: var(--field);
    padding: 16px 24px;
  }
  aside {
    border-left: 2px solid var(--ink);
    padding: 16px 20px;
    display: grid;
    gap: 8px;
    align-content: start;
  }
  aside h2:not(:first-child) {
    margin-top: 12px;
    padding-top: 10px;
    border-top: 1px solid var(--rule);
  }
  .haz {
    font-size: 14px;
    border-left: 4px solid var(--ink);
    padding-left: 8px;
    margin-top: 4px;
  }
  @media (max-width: 900px) {
    .stack {
      grid-template-columns: 1fr;
    }
    aside {
      border-left: 0;
    }
  }
</style>
