/** What the air forbids, worded here from code and numbers; what has no words here yet is shown as it came. */
import type { Schemas } from "../api/client";
import { say } from "../words";
import { apart, bare, kelvin, show } from "./format";

type Verdict = Schemas["Verdict"];
export type Told = { what: string; why: string; instead: string };

const WORDED: Record<string, (v: Record<string, number>) => Told> = {
  "climate.frozen": (v) => ({
    what: say.verdicts.surfaceIs(show("degc", v.surface_degc!)),
    why: say.verdicts.ice,
    instead: say.verdicts.warmAndDry(show("degc", 0, 0)),
  }),
  "climate.dew": (v) => ({
    what: say.verdicts.aboveDew(
      bare("k", v.margin_k!),
      kelvin(v.uncertainty_k!),
      apart("k", v.margin_k! - v.uncertainty_k!, v.least_k!)[0],
    ),
    why: say.verdicts.condenses(apart("k", v.margin_k! - v.uncertainty_k!, v.least_k!)[1]),
    instead: say.verdicts.warmOrDry,
  }),
  "climate.rh": (v) => {
    const [is, most] = apart("percent", v.rh_frac!, v.most_frac!);
    return { what: say.verdicts.humidityIs(is), why: say.verdicts.limitIs(most), instead: say.verdicts.waitOrDry };
  },
  "climate.temperature": (v) => {
    const cold = v.surface_degc! < v.least_degc!;
    const [is] = apart("degc", v.surface_degc!, cold ? v.least_degc! : v.most_degc!);
    return {
      what: say.verdicts.surfaceIs(is),
      why: say.verdicts.rangeIs(bare("degc", v.least_degc!, 0), show("degc", v.most_degc!, 0)),
      instead: cold ? say.verdicts.warmFirst : say.verdicts.cooler,
    };
  },
  "climate.wind": (v) => ({
    what: say.verdicts.windIs(show("m_s", v.wind_m_s!, 1)),
    why: say.verdicts.overspray,
    instead: v.wind_m_s! > v.most_m_s! ? say.verdicts.waitForWind(show("m_s", v.most_m_s!, 0)) : say.verdicts.screens,
  }),
  "climate.rain": (v) => ({ what: say.verdicts.rain(show("mm", v.rain_mm!)), why: say.verdicts.spots, instead: say.verdicts.cover }),
};

export const told = (v: Verdict): Told => WORDED[v.rule_id]?.(v.values ?? {}) ?? v;
