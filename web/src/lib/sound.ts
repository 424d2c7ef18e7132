/** Tones, once somebody has touched the page: before that no browser lets one sound. */
import type { Kind } from "./alarms";

/** Pitch [Hz] and when it begins [s]; what is open rises, what ends falls. */
const TUNES: Record<"opens" | "ends" | "mix", [number, number][]> = {
  opens: [
    [660, 0],
    [880, 0.25],
  ],
  ends: [
    [880, 0],
    [880, 0.3],
    [660, 0.6],
    [660, 0.9],
  ],
  mix: [
    [520, 0],
    [520, 0.2],
    [520, 0.4],
    [780, 0.7],
  ],
};
const TONE_S = 0.2;
const BUZZ: Record<keyof typeof TUNES, number[]> = { opens: [250], ends: [300, 150, 300, 150, 300], mix: [120, 80, 120, 80, 600] };
const tuneOf = (kind: Kind): keyof typeof TUNES =>
  kind === "opens" || kind === "tape" ? "opens" : kind === "pot" || kind === "gels" ? "mix" : "ends";

let context: AudioContext | null = null;

/** Called for every touch: the first one opens the ear. */
export function touched(): void {
  context ??= new AudioContext();
  if (context.state === "suspended") void context.resume();
}
export const canSound = (): boolean => context?.state === "running";
export const canBuzz = (): boolean => typeof navigator.vibrate === "function";

export function ring(kind: Kind): void {
  const tune = tuneOf(kind);
  if (canBuzz()) navigator.vibrate(BUZZ[tune]);
  if (!context || context.state !== "running") return;
  for (const [pitch, from_s] of TUNES[tune]) {
    const tone = context.createOscillator();
    const loud = context.createGain();
    loud.gain.value = 0.6;
    tone.frequency.value = pitch;
    tone.connect(loud).connect(context.destination);
    tone.start(context.currentTime + from_s);
    tone.stop(context.currentTime + from_s + TONE_S);
  }
}
