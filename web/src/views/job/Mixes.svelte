<script lang="ts">
  /** Mixes of a job as they were poured: amounts, lots, what was left. */
  import type { Schemas } from "../../api/client";
  import { cards } from "../../lib/cards";
  import { clockTime, date, percent, spaced, volume } from "../../lib/format";
  import { component } from "../../lib/judged";
  import { say } from "../../words";

  type Props = { mixes: Schemas["MixLine"][] };
  let { mixes }: Props = $props();
  /** Base to hardener by volume as they went in; what several pours of one added up to. */
  function ratio(m: Schemas["MixLine"]): string {
    const of = (role: string): number => m.poured.filter((p) => p.role === role).reduce((sum, p) => sum + p.ml, 0);
    return of("hardener") > 0 && of("base") > 0 ? say.record.ratio(spaced(of("base") / of("hardener"), 2)) : "";
  }
  const day = (text: string): string => date(Date.parse(`${text}T12:00:00Z`) / 1000);
</script>

<table class="cards" {@attach cards}>
  <thead
    ><tr
      ><th>{say.common.material}</th><th>{say.record.mixedAt}</th><th>{say.record.poured}</th><th>{say.record.inAll}</th><th
        >{say.record.leftOver}</th
      ></tr
    ></thead
  >
  <tbody
    >{#each mixes as m (m.batch_id)}<tr
        ><td><b>{m.material}</b></td><td>{date(m.at)}, {clockTime(m.at)}</td><td
          >{#each m.poured as p, i (p.entry_id)}{i ? "; " : ""}{component(p.role)}
            {volume(p.ml)}{#if p.can?.lot}, {say.cans.lotOf(p.can.lot)}{/if}{#if p.can?.expires_on}, {say.cans.expiresOn(
                day(p.can.expires_on),
              )}{/if}{/each}{#if ratio(m)}; {ratio(m)}{/if}</td
        ><td>{volume(m.total_ml)}{m.solids_frac ? `, ${say.record.solidsOf(percent(m.solids_frac))}` : ""}</td><td
          >{m.left_ml == null ? say.record.nobodyLooked : volume(m.left_ml)}</td
        ></tr
      >{/each}</tbody
  >
</table>

<style>
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
</style>
