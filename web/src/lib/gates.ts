/** The stages of a cure by name, in the order in which they come. */
import { say } from "../words";

export const GATES = ["touch", "unmask_from", "sand", "handle", "water", "wash", "use", "immerse_from", "full"];

export const gateName = (gate: string): string =>
  (
    ({
      touch: say.cure.touchDry,
      unmask_from: say.cure.unmask,
      sand: say.cure.readyToSand,
      handle: say.cure.dryToHandle,
      water: say.cure.waterResistant,
      wash: say.cure.washable,
      use: say.cure.backInUse,
      immerse_from: say.cure.readyToImmerse,
      full: say.cure.fullCure,
    }) as Record<string, string>
  )[gate] ?? gate.replaceAll("_", " ");
