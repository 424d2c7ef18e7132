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
          reading_low: say.films.readingLow(um(x.lowest_um), um(0.8 * x.nominal_um)),
          many_under: say.films.manyUnder(x.under_nominal, x.n),
          over_most: say.films.overMost(um(x.highest_um), um(x.most_um)),
        })[code],
    );
  const WHY_NOT: Record<string, string> = {
    old_film: say.films.oldFilm,
    plating: say.films.plating,
    soft: say.films.soft,
    no_film: say.films.noFilm,
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
        ><th>{say.films.range}</th><th>{say.films.under}</th><th>{say.record.result}</th></tr
      ></thead
    >
    <tbody
      >{#each films as f (f.part)}{@const x = f.inspection}<tr class:bad={x && x.fails.length > 0}
          ><td>{f.part}</td><td>{x ? say.films.of(x.n, x.wanted) : f.read}</td><td>{x ? bare("um", x.nominal_um) : say.common.none}</td><td
            >{x ? bare("um", x.mean_um) : say.common.none}</td
          ><td>{x?.sd_um != null ? bare("um", x.sd_um) : say.common.none}</td><td
            >{x ? say.films.from(bare("um", x.lowest_um), bare("um", x.highest_um)) : say.common.none}</td
          ><td>{x ? x.under_nominal : say.common.none}</td><td
            >{#if !x}{WHY_NOT[f.unjudged]}{:else if x.fails.length}<b>{say.films.notAccepted}</b>
              {verdict(x).join(" ")}{:else}<b>{say.films.accepted}</b>{/if}</td
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
  .bad td {
    background: var(--lift);
  }
</style>
