/** Whether the server can be reached, and of when the newest is that this device holds. */
const LOOK_MS = 3000;
const PATIENCE_MS = 5000;

class Network {
  down = $state(false);
  /** When the server last answered anything [s, its clock]; null: not since this page was opened. */
  heard_at = $state<number | null>(null);
  /** Of when what is on screen is, where it came out of this device's own store [s]. */
  kept_at = $state<number | null>(null);
  /** Called when the server answers again. */
  onBack: () => void = () => undefined;
  #looking: ReturnType<typeof setInterval> | null = null;

  /** A question came back unanswered. */
  lost(): void {
    this.down = true;
    this.#looking ??= setInterval(() => void this.look(), LOOK_MS);
  }

  /** The server has answered. */
  heard(at: number): void {
    this.heard_at = at;
    if (this.#looking) clearInterval(this.#looking);
    this.#looking = null;
    this.kept_at = null;
    if (!this.down) return;
    this.down = false;
    this.onBack();
  }

  /** Ask for a sign of life. */
  async look(): Promise<void> {
    try {
      const answer = await fetch("/api/session", { signal: AbortSignal.timeout(PATIENCE_MS) });
      if (answer.status < 500) this.heard(Number(answer.headers.get("Coat-Now")) || Math.floor(Date.now() / 1000));
    } catch {
      this.lost(); // still nothing: asked again in a moment
    }
  }
}

export const network = new Network();
addEventListener("online", () => network.down && void network.look());
