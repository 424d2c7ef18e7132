/** The screen stays on while a coat is on, where the browser can hold it. */
class Awake {
  readonly known = "wakeLock" in navigator;
  held = $state(false);
  refused = $state(false);
  #wanted = false;
  #asking = false;
  #lock: WakeLockSentinel | null = null;

  constructor() {
    // A page that was out of sight has lost it.
    document.addEventListener("visibilitychange", () => !document.hidden && this.#wanted && void this.#take());
  }

  want(on: boolean): void {
    this.#wanted = on;
    if (on) void this.#take();
    else void this.#lock?.release();
  }

  /** Whoever wants it must not come to depend on whether it is held: only what is not watched is read here. */
  async #take(): Promise<void> {
    if (!this.known || this.#asking || (this.#lock && !this.#lock.released) || document.hidden) return;
    this.#asking = true;
    try {
      const lock = await navigator.wakeLock.request("screen");
      this.#lock = lock;
      this.held = true;
      this.refused = false;
      lock.addEventListener("release", () => (this.held = false));
      if (!this.#wanted) await lock.release();
    } catch {
      this.refused = true; // little battery, or not allowed here
    } finally {
      this.#asking = false;
    }
  }
}

export const awake = new Awake();
