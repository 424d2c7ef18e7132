<script lang="ts">
  /** Dry film by the gauge, part by part: the readings, the verdict and which part of the rule fails. */
  import type { Schemas } from "../../api/client";
  import { bare, um } from "../../lib/format";
  import { cards } from "../../lib/cards";
  import { say } from "../../words";

  type Props = { films: Schemas["FilmLine"][] };
  let { films }: Props = $props();
  const verdict = (x: Schemas["FilmInspection"]): string[] =>
    x.fails.map(
      (code) =>
        ({
          too_few: say.films.tooFew(x.n, x.wanted),
          mean_low: say.films.meanLow(um(x.mean_um), um(x.nominal_um)),
          reading_low: say.films.readingLow(um(x.lowest_um), um(0.8 * x.nominal_um), (x.low_at ?? []).join(", ")),
          many_under: say.films.manyUnder(x.under_nominal, x.n),
          over_most: say.films.overMost(um(x.highest_um), um(x.most_um)),
        })[code],
    );
  let level = $state(3);
  const LEVELS = [1, 2, 3, 4, 5];
  /** The same readings three by three, at the level that is chosen. */
  function bySpots(x: Schemas["SpotInspection"]): string[] {
    const fails = x.verdicts.find((v) => v.level === level)?.fails ?? [];
    return fails.map(
      (code) =>
        ({
          too_few_spots: say.films.tooFewSpots(x.spots, x.wanted),
          lot_low: say.films.lotLow(um(x.least_um)),
          lot_high: say.films.lotHigh(um(x.most_um)),
          spot_low: say.films.spotLow(um(x.lowest_um), x.low_at.join(", ")),
          spot_high: say.films.spotHigh(um(x.highest_um)),
        })[code],
    );
  }
  /** Nothing is wrong with the spots but their number. */
  const isShort = (x: Schemas["SpotInspection"]): boolean =>
    (x.verdicts.find((v) => v.level === level)?.fails ?? []).every((code) => code === "too_few_spots");
  const WHY_NOT: Record<string, string> = {
    old_film: say.films.oldFilm,
    plating: say.films.plating,
    soft: say.films.soft,
    no_film: say.films.noFilm,
    simulated: say.films.simulated,
  };
  const rests = $derived([
    say.films.rule,
    ...(films.some((f) => f.inspection && !f.steelwork) ? [say.films.steelwork] : []),
    ...(films.some((f) => f.inspection?.correction_um) ? [say.films.profile(um(25))] : []),
  ]);
</script>

<div class="scroll">
  <table class="cards" {@attach cards}>
    <thead
      ><tr
        ><th>{say.common.partLabel}</th><th>{say.films.readings}</th><th>{say.films.nominal}</th><th>{say.films.mean}</th><th
          >{say.films.scatter}</th
        ><th>{say.films.range}</th><th>{say.films.under}</th><th>{say.films.byReadings}</th><th
          >{say.films.bySpots}
          <select class="noprint" aria-label={say.films.level} bind:value={level}
            >{#each LEVELS as n (n)}<option value={n}>{say.films.levelN(n)}</option>{/each}</select
          ></th
        ></tr
      ></thead
    >
    <tbody
      >{#each films as f, i (i)}{@const x = f.inspection}<tr class:bad={x && x.fails.length > 0}
          ><td>{f.part}</td><td>{x ? say.films.of(x.n, x.wanted) : f.read}</td><td>{x ? bare("um", x.nominal_um) : say.common.none}</td><td
            >{x ? bare("um", x.mean_um) : say.common.none}</td
          ><td>{x?.sd_um != null ? bare("um", x.sd_um) : say.common.none}</td><td
            >{x ? say.films.from(bare("um", x.lowest_um), bare("um", x.highest_um)) : say.common.none}</td
          ><td>{x ? x.under_nominal : say.common.none}</td><td
            >{#if !x}{WHY_NOT[f.unjudged]}{:else if x.fails.length}<b>{say.films.notAccepted}</b>
              {verdict(x).join(" ")}{:else}<b>{say.films.accepted}</b>{/if}{#if x && f.unfinished}
              {say.films.unfinished}{/if}</td
          ><td
            >{#if f.spots}{@const told = bySpots(f.spots)}<b
                >{!told.length ? say.films.accepted : isShort(f.spots) ? say.films.notJudgedYet : say.films.notAccepted}</b
              >
              {told.join(" ")} <span class="mute">{say.films.levelN(level)}, {say.films.spots(f.spots.spots)}</span>{:else}{say.common
                .none}{/if}</td
          ></tr
        >{/each}</tbody
    >
  </table>
</div>
<p class="mute">{rests.join(" ")}</p>

<style>
  .scroll {
    overflow-x: auto;
  }
  table {
    width: 100%;
    font-size: 14px;
  }
  th,
  td {
    padding: 4px 10px 4px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: top;
    text-align: left;
  }
  select {
    width: auto;
    min-height: 44px;
  }
  @media print {
    .noprint {
      display: none;
    }
  }
  .bad td {
    background: var(--lift);
  }
</style>
