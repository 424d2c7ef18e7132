/** The teeth of the reader's own comb [µm]. */
import { session } from "./session.svelte";

export const teeth = (): number[] => session.who?.preferences.comb_um ?? [];
/** The tooth after this one: the first that came out dry. */
export function nextTooth(um: number): number {
  const all = teeth();
  return all[all.indexOf(um) + 1] ?? um;
}
