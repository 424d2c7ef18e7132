/** Who sprays and with what, as this device was last told; and what is breathed through, told anew each day. */
import { serverClock } from "./clock.svelte";

export type Breathing = "air_fed" | "cartridge" | "none";
const KEY = "coatlog.crew";
const SHIFT_S = 12 * 3600;
type Kept = { painter: string; gun: string; breathing: Breathing | null; at: number };

function kept(): Kept {
  try {
    return { painter: "", gun: "", breathing: null, at: 0, ...(JSON.parse(localStorage.getItem(KEY) ?? "{}") as Partial<Kept>) };
  } catch {
    return { painter: "", gun: "", breathing: null, at: 0 }; // private mode, or something else's value
  }
}

class Crew {
  #kept = $state.raw(kept());

  get painter(): string {
    return this.#kept.painter;
  }
  get gun(): string {
    return this.#kept.gun;
  }
  /** Null: nobody has said so this shift. */
  get breathing(): Breathing | null {
    return serverClock.now - this.#kept.at < SHIFT_S ? this.#kept.breathing : null;
  }
  say(told: Partial<Omit<Kept, "at">>): void {
    this.#kept = { ...this.#kept, ...told, at: "breathing" in told ? serverClock.now : this.#kept.at };
    try {
      localStorage.setItem(KEY, JSON.stringify(this.#kept));
    } catch {
      return; // it is remembered until the page is closed
    }
  }
}

export const crew = new Crew();
