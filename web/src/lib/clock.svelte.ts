/** The browser's clock, set by the server's: there is one clock door and it is not here. */
const KEY = "coatlog.clock";

class ServerClock {
  /** What this device's clock is off, as it was last heard: a page opened without network goes by it too. */
  #offset_s = Number(localStorage.getItem(KEY) ?? 0) || 0;
  now = $state(Math.floor(Date.now() / 1000));

  constructor() {
    setInterval(() => this.#tick(), 250);
  }

  /** Take the offset from the time a response carries. */
  hear(header: string | null): void {
    const at = Number(header);
    if (!header || !Number.isFinite(at)) return;
    const offset = at - Date.now() / 1000;
    if (Math.abs(offset - this.#offset_s) > 1.5) {
      this.#offset_s = offset;
      localStorage.setItem(KEY, String(offset));
    }
    this.#tick();
  }

  #tick(): void {
    const now = Math.floor(Date.now() / 1000 + this.#offset_s);
    if (now !== this.now) this.now = now;
  }
}

export const serverClock = new ServerClock();
