/** The sections of a job, in the order of work. */
import { say } from "../words";

export const STEPS = ["survey", "stack", "quantity", "mix", "run", "cure", "service"] as const;
export type Step = (typeof STEPS)[number];
export const stepOf = (name: string | undefined): Step => STEPS.find((id) => id === name) ?? "run";
export const stepName = (step: Step): string =>
  ({
    survey: say.common.survey,
    stack: say.common.system,
    quantity: say.tabs.quantities,
    mix: say.common.mix,
    run: say.tabs.apply,
    cure: say.tabs.cure,
    service: say.common.inService,
  })[step];
