/** The state of a coat, as a painter says it. */
import { say } from "../words/index.ts";

export const stateWord = (state: string): string => (say.states as Record<string, string>)[state] ?? state.replaceAll("_", " ");
/** In a drawing, beside its colour. */
export const shortState = (state: string): string => (say.shortStates as Record<string, string>)[state] ?? stateWord(state);
